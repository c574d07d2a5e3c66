// The history of a document: pictures of its revisions, milestone names, restoring.

import { finished, post } from './api.js';

const root = document.getElementById('history');
const path = (rest) => `/api/documents/${root.dataset.document}/${rest}`;
const tell = (lead, say) => {
  document.getElementById('lead').textContent = lead;
  document.getElementById('say').textContent = say;
};
const fail = (problem) => tell('Not done:', [problem.message, problem.hint].filter(Boolean).join(' '));

async function keep(input) {
  if (input.value === input.dataset.kept) return;
  try {
    await post(path('milestones'), { revision: Number(input.dataset.milestone), name: input.value });
    input.dataset.kept = input.value;
    tell(
      'Kept:',
      input.value
        ? `revision ${input.dataset.milestone} is “${input.value}”`
        : `revision ${input.dataset.milestone} has no name any more`,
    );
  } catch (problem) {
    fail(problem);
  }
}

root.addEventListener('keydown', ({ key, target }) => {
  if (!target.dataset.milestone) return;
  if (key === 'Enter') keep(target);
  if (key === 'Escape') {
    target.value = target.dataset.kept;
    target.blur();
  }
});
root.addEventListener('focusout', ({ target }) => {
  if (target.dataset.milestone) keep(target);
});
root.addEventListener('click', async ({ target }) => {
  const { restore } = target.dataset;
  if (!restore) return;
  try {
    await post(path('restore'), { revision: Number(restore) });
    location.assign(root.dataset.page);
  } catch (problem) {
    fail(problem);
  }
});

// One after another, so that drawing the past does not keep a worker from the present.
(async () => {
  for (const picture of document.querySelectorAll('[data-picture]')) {
    const waiting = picture.parentElement.querySelector('[data-waiting]');
    try {
      /** @type {Wire.PictureAnswer_Picture} */
      const answer = await post(path('picture'), { revision: Number(picture.dataset.picture) });
      let { blob } = answer;
      if (answer.job) {
        const job = await finished(answer.job);
        if (job.state !== 'done') throw new Error(job.message);
        blob = job.result.blob;
      }
      if (!blob) throw new Error('nothing to draw');
      picture.src = `/api/blobs/${blob}`;
      picture.classList.remove('hidden');
      waiting.remove();
    } catch {
      waiting.textContent = 'no body';
    }
  }
  document.documentElement.dataset.ready = 'yes';
})();
