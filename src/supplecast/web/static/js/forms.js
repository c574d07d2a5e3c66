// Forms of a page that may have stood open for long: each gets a new token before it is sent, so that nothing typed is lost.

import { renewed } from './api.js';

const LONG = 300_000; // ms after which a page counts as old

/** @type {NodeListOf<HTMLFormElement>} */
const forms = document.querySelectorAll('form[method="post"]');
for (const form of forms) {
  form.addEventListener('submit', async (event) => {
    if (performance.now() < LONG) return;
    event.preventDefault();
    const field = /** @type {HTMLInputElement} */ (form.elements.namedItem('token'));
    const token = await renewed().catch(() => '');
    if (token) field.value = token;
    form.submit();
  });
}
