// The list of projects: sends a chosen file at once, and fetches a picture for each document.

import './forms.js';

import { finished, post } from './api.js';

for (const input of document.querySelectorAll('[data-sends]')) {
  input.addEventListener('change', () => {
    const tooLarge = input.files[0]?.size > 64 * 2 ** 20;
    input.setCustomValidity(
      tooLarge ? 'The file is larger than 64 MB. Save it smaller, or send only what is needed.' : '',
    );
    if (input.form.reportValidity()) input.form.requestSubmit();
  });
}

// A file that is dropped on a project is imported into it; beside them, into the first.
document.addEventListener('dragover', (event) => event.preventDefault());
document.addEventListener('drop', (event) => {
  event.preventDefault();
  const over = event.target instanceof Element ? event.target.closest('section') : null;
  /** @type {HTMLInputElement | null} */
  const input = (over || document).querySelector('[data-sends]');
  if (!input || !event.dataTransfer.files.length) return;
  input.files = event.dataTransfer.files;
  input.dispatchEvent(new Event('change'));
});

// One after another, so that the list does not keep both workers from whoever opens a document.
(async () => {
  for (const picture of document.querySelectorAll('[data-picture]')) {
    const waiting = picture.parentElement.querySelector('[data-waiting]');
    try {
      /** @type {Wire.PictureAnswer_Picture} */
      const answer = await post(`/api/documents/${picture.dataset.picture}/picture`);
      const job = answer.job ? await finished(answer.job) : null;
      const blob = job ? job.result?.blob : answer.blob;
      if (!blob) throw new Error(job?.message);
      picture.src = `/api/blobs/${blob}`;
      picture.classList.remove('hidden');
      waiting.remove();
    } catch {
      waiting.textContent = 'no body yet';
    }
  }
  document.documentElement.dataset.ready = 'yes';
})();
