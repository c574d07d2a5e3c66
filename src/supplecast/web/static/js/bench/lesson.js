// The lesson that a document is worked on in: which task comes next is told by the document, never by clicks.

import { call } from '../api.js';

export const noLesson = () => ({
  on: false,
  folded: false,
  title: '',
  say: '',
  why: '',
  all: '',
  over: false,
  edit: null,
  done: 0,
  of: 0,
  marks: [],
});

// Rules of a sheet of their own hold when the page's HTML is put in anew.
const lit = new CSSStyleSheet();
document.adoptedStyleSheets = [...document.adoptedStyleSheets, lit];

function light(places) {
  // A gauge ends at the edge of the window: its frame lies inside.
  const rule = (place) =>
    `outline: 2px solid var(--color-amber); outline-offset: ${place.includes('gauge') ? -3 : 2}px`;
  lit.replaceSync(places.map((place) => `${place} { ${rule(place)}; border-radius: 3px }`).join('\n'));
}

/** @type {ThisType<any> & Record<string, any>} */
export const lessonPanel = {
  // Ask how far the lesson is, after what has been built or judged.
  async readLesson() {
    if (!this.hasLesson) return;
    try {
      /** @type {Wire.LessonAnswer | null} */
      const told = await call(this.path('lesson'));
      if (told) this.showLesson(told);
      else this.endLesson();
    } catch (problem) {
      this.fail(problem);
    }
  },

  showLesson(told) {
    if (!told.known && this.lesson.on) return; // until it is, the lesson stands as it stood
    const done = told.tasks.filter((task) => task.done).length;
    const next = told.tasks[done];
    const look = (k) => (k < done ? 'bg-petrol' : k === done ? 'bg-amber' : 'bg-line');
    this.lesson = {
      on: true,
      folded: this.lesson.folded,
      title: told.title,
      say: next ? next.do : told.ends,
      why: next ? next.why : '',
      all: told.all,
      over: !next,
      edit: told.edit,
      done,
      of: told.tasks.length,
      marks: told.tasks.map((_, k) => ({ key: k, look: look(k) })),
    };
    light(told.lights);
  },

  endLesson() {
    this.hasLesson = false;
    this.lesson = noLesson();
    light([]);
  },

  get lessonLook() {
    return { 'is-folded': this.lesson.folded, 'is-drawing': this.sk.on };
  },

  get lessonCount() {
    return this.lesson.over ? 'done' : `${this.lesson.done + 1} of ${this.lesson.of}`;
  },

  foldLesson() {
    this.lesson = { ...this.lesson, folded: !this.lesson.folded };
  },

  async doTask() {
    const { edit } = this.lesson;
    if (!edit) return;
    const before = this.revision;
    this.lesson = { ...this.lesson, edit: null }; // not twice, while it is being built
    if (this.sk.on) await this.sketcher.close();
    await this.edit(edit);
    if (this.revision === before) this.lesson = { ...this.lesson, edit };
  },

  async leaveLesson() {
    await this.edit({ op: 'document', lesson: '' });
    this.endLesson();
  },
};
