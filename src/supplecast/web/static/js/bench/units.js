// Changing a document's unit: both ways are shown with the size they give before one is taken.

import { finished, post } from '../api.js';

export async function askUnit(bench, unit) {
  if (!document.querySelector('.step, [data-value]')) {
    await changed(bench, unit, 'size'); // nothing is there that could keep its size or its numbers
    return;
  }
  bench.unitAsk = { unit, on: true, size: '', numbers: '', sizeWarning: '', numbersWarning: '' };
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
  };
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
