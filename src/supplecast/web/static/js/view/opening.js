// How far each body travels when the mold opens: the core side first, then the slides, then the parts are pushed off.

export const STROKE = 160; // mm of the core side, at most
const CORE = new Set(['core', 'core insert', 'core pin', 'ejector', 'lifter', 'stripper', 'moving base', 'ejection']);
export const SLIDES = new Set(['slide', 'core slide']);
const PARTS = new Set(['shot', 'linked', 'molded', 'part', 'feed']);
const SLIDES_AT = 0.2; // share of the stroke at which the slides begin, their wedges being clear
const PARTS_AT = 0.5; // and the parts, the slides being out
const LIFT = 0.46;
const SECONDS = 2.6;

export function travel(role, stroke, hasSlides) {
  if (CORE.has(role)) return stroke;
  if (SLIDES.has(role)) return 0.4 * Math.max(0, stroke - SLIDES_AT * STROKE);
  if (!PARTS.has(role)) return 0;
  return hasSlides ? (LIFT / (1 - PARTS_AT)) * Math.max(0, stroke - PARTS_AT * STROKE) : LIFT * stroke;
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
