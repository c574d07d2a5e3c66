// The resins: a grade of one's own begun, kept, forgotten.

import { call, post } from './api.js';

/** @type {HTMLFormElement} */
const form = document.querySelector('#grade');
const wrong = document.getElementById('wrong');
const fail = (problem) => {
  wrong.textContent = [problem.message, problem.hint].filter(Boolean).join(' ');
};

document
  .getElementById('begin')
  .addEventListener('click', () =>
    location.assign(`?like=${encodeURIComponent(document.getElementById('like').value)}`),
  );

// Typed figures as the server wants them: pairs as lists, blanks left out, a comma for a point.
function figures() {
  const grade = { like: form.dataset.like };
  for (const [name, text] of /** @type {[string, string][]} */ ([...new FormData(form)])) {
    if (['name', 'source'].includes(name)) {
      grade[name] = text;
      continue;
    }
    if (name.startsWith('look.')) continue;
    if (!text.trim()) continue;
    const value = Number(text.replace(',', '.'));
    if (!Number.isFinite(value)) throw Object.assign(new Error(`“${text}” is not a number.`), { field: name });
    const [key, index] = name.split('.');
    if (index === undefined) grade[key] = value;
    else {
      grade[key] = grade[key] || [];
      grade[key][Number(index)] = value;
    }
  }
  return { ...grade, look: look() };
}

// What parts of it look like: left out where nothing was chosen, so that they look like any resin.
function look() {
  const [kind, colour, gloss] = ['kind', 'colour', 'gloss'].map((name) => form.elements[`look.${name}`].value);
  const usual =
    kind === 'solid' && colour === form.elements['look.colour'].defaultValue && form.dataset.looks !== 'yes';
  return usual ? null : { kind, colour, gloss: Number(gloss.replace(',', '.')) / 100 };
}

form?.addEventListener('input', () => {
  wrong.textContent = '';
});
form?.addEventListener('submit', async (event) => {
  event.preventDefault();
  try {
    await post('/api/resins', { ...figures(), ...(form.dataset.was ? { was: form.dataset.was } : {}) });
    location.assign(location.pathname);
  } catch (problem) {
    fail(problem);
    if (problem.field) form.elements[problem.field].focus();
  }
});
document.getElementById('drop')?.addEventListener('click', async ({ target }) => {
  if (!target.dataset.asked) {
    // forgetting cannot be undone
    target.dataset.asked = 'yes';
    target.textContent = `forget “${form.dataset.was}” for good`;
    return;
  }
  try {
    await call(`/api/resins/${encodeURIComponent(form.dataset.was)}`, { method: 'DELETE' });
    location.assign(location.pathname);
  } catch (problem) {
    fail(problem);
  }
});
form?.querySelector('[name="name"]').select();
document.documentElement.dataset.ready = 'yes';
