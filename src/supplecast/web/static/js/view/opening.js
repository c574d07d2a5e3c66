// The opening stroke: where a body stands at a share of it, in percent, as the worker has told its legs.

export const STROKE = 100;
const SECONDS = 3.2;

// How far a body is off its place, mm.
export function offset(legs, percent) {
  const at = [0, 0, 0];
  for (const { begin, end, by } of legs || []) {
    const done = Math.min(Math.max((percent / STROKE - begin) / (end - begin), 0), 1);
    by.forEach((length, k) => (at[k] += done * length));
  }
  return at;
}

// What happens at a share of the stroke.
export function stageWords(stages, percent) {
  if (Number(percent) === 0) return 'shut';
  return (stages.find(({ until }) => percent / STROKE <= until + 1e-9) || stages.at(-1)).words;
}

// Run the stroke from shut to open; `step` is told each value. Returns what stops it.
export function play(step) {
  if (window.matchMedia('(prefers-reduced-motion: reduce)').matches) {
    step(STROKE);
    return () => {};
  }
  let going = true;
  const began = performance.now();
  const frame = (now) => {
    if (!going) return;
    const share = Math.min((now - began) / 1000 / SECONDS, 1);
    step(Math.round(share * STROKE));
    if (share < 1) requestAnimationFrame(frame);
  };
  requestAnimationFrame(frame);
  return () => {
    going = false;
  };
}
