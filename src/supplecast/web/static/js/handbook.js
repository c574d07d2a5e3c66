// The handbook's search: pages whose words hold all that is typed stay; Enter opens the first of them, / begins another.

/** @type {HTMLInputElement} */
const seek = document.querySelector('#seek');
const nothing = document.getElementById('nothing');
/** @type {HTMLElement[]} */
const rows = Array.from(document.querySelectorAll('[data-words]'));
/** @type {HTMLElement[]} */
const chapters = Array.from(document.querySelectorAll('[data-chapter]'));
const stood = chapters.map((one) => one.hasAttribute('open'));

function filter() {
  const words = seek.value.toLowerCase().split(/\s+/).filter(Boolean);
  for (const row of rows) row.hidden = !words.every((word) => row.dataset.words.includes(word));
  chapters.forEach((chapter, place) => {
    chapter.hidden = [...chapter.querySelectorAll('[data-words]')].every(
      (row) => /** @type {HTMLElement} */ (row).hidden,
    );
    if (chapter instanceof HTMLDetailsElement) chapter.open = words.length > 0 || stood[place];
  });
  nothing.hidden = rows.some((row) => !row.hidden);
}

seek.addEventListener('input', filter);
seek.addEventListener('keydown', (event) => {
  const named = rows.filter(
    (row) => !row.hidden && row.textContent.trim().toLowerCase().startsWith(seek.value.toLowerCase()),
  );
  const first = (named[0] || rows.find((row) => !row.hidden))?.querySelector('a');
  if (event.key === 'Enter' && first) location.assign(first.href);
  if (event.key === 'Escape') {
    seek.value = '';
    filter();
  }
});
document.addEventListener('keydown', (event) => {
  if (!['/', '?'].includes(event.key) || document.activeElement === seek) return;
  event.preventDefault();
  seek.focus();
  seek.select();
});
filter();
document.querySelector('[aria-current]')?.scrollIntoView({ block: 'center' });
