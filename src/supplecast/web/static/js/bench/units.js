// Changing a document's unit: both ways are shown with the size they give before one is taken.

import { finished, post } from '../api.js';

export async function askUnit(bench, unit) {
  if (!document.querySelector('.step, [data-value]')) {
    await changed(bench, unit, 'size'); // nothing is there that could keep its size or its numbers
    return;
  }
  const blank = { size: '', numbers: '', all: '', held: '', sizeWarning: '', numbersWarning: '', allWarning: '' };
  bench.unitAsk = { ...blank, unit, on: true };
  /** @type {Wire.Started_UnitChange} */
  const answer = await post(bench.path('units'), { unit });
  const job = await finished(answer.job);
  if (bench.unitAsk.unit !== unit || !bench.unitAsk.on) return;
  if (job.state !== 'done') {
    bench.unitAsk.on = false;
    bench.tell('Not done:', [job.message, job.hint].filter(Boolean).join(' '), 'fault');
    return;
  }
  const words = ({ size, ok }) =>
    size.length ? `${size.join(' × ')} ${unit}${ok ? '' : ' (does not build)'}` : 'no body yet';
  bench.unitAsk = {
    unit,
    on: true,
    size: words(job.result.size),
    numbers: words(job.result.numbers),
    sizeWarning: job.result.size.warning,
    numbersWarning: job.result.numbers.warning,
    all: words(job.result.all_numbers),
    allWarning: job.result.all_numbers.warning,
    held: heldWords(job.result.with_units),
  };
}

// Which lengths are typed with a unit of their own, and so stay as they are.
function heldWords(held) {
  if (!held.length) return '';
  const shown = held.slice(0, 4).join(', ');
  return held.length > 4 ? `${shown} and ${held.length - 4} more` : shown;
}

export async function takeUnit(bench, keeps) {
  const { unit } = bench.unitAsk;
  bench.unitAsk = { ...bench.unitAsk, on: false };
  await changed(bench, unit, keeps);
}

async function changed(bench, unit, keeps) {
  await bench.edit({ op: 'document', unit, keeps });
  if (!bench.tone) location.reload(); // every label of the page speaks of the unit
}
