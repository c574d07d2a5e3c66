// What comes from elsewhere: photos, outlines from files, edges of the model behind the sheet.

import { Problem, finished, post, send } from '../api.js';
import { HANDS } from './belt.js';

export class Bringing {
  constructor(sheet) {
    this.sheet = sheet;
  }

  async bringPhoto(input) {
    const [file] = input.files;
    input.value = '';
    if (!file) return;
    if (file.size > 24 * 2 ** 20) {
      this.sheet.tell(`${file.name} is larger than 24 MB: save it smaller`, { tone: 'fault' });
      return;
    }
    const form = new FormData();
    form.append('file', file);
    try {
      const { photo } = await send(this.sheet.path('/photos'), form);
      const width =
        0.7 *
        Math.min(this.sheet.drawing.width, (this.sheet.drawing.height * photo.pixels[0]) / photo.pixels[1]) *
        this.sheet.drawing.unit;
      const done = await this.sheet.act({ do: 'add photo', photo: { ...photo, at: this.sheet.drawing.centre, width } });
      if (!done.refused) this.sheet.tool.use('photo');
    } catch (problem) {
      this.sheet.fail(problem);
    }
  }

  // The photo in hand: the one clicked last, else the one brought in last.
  get photo() {
    const { photos = [] } = this.sheet.scene || {};
    return photos.find((photo) => photo.id === this.held) || photos.at(-1);
  }

  // The first guess of what the photo shows, as curves to be corrected.
  async trace() {
    if (!this.photo) {
      this.sheet.tell('bring in a photo first: the panel at the right does', { tone: 'fault' });
      return;
    }
    this.sheet.tell('looking for the outline …');
    try {
      /** @type {Wire.Started_OutlineCurves} */
      const answer = await post(this.sheet.path('/trace'), { photo: this.photo.id });
      const job = await finished(answer.job);
      if (job.state !== 'done') throw new Problem(job.message, job.hint, 422);
      const { curves, notes, off } = job.result;
      const done = await this.sheet.act({ do: 'trace', curves, off });
      if (done.refused) return;
      this.sheet.tool.use('choose');
      this.sheet.tell([`${curves.length} curves guessed, ${notes.join('; ')}: correct and size them`].join(''));
    } catch (problem) {
      this.sheet.fail(problem);
    }
  }

  photoActs(field) {
    if (!this.photo) return null;
    const acts = [];
    const name = this.photo.id;
    const [distance, across, up] = ['distance', 'across', 'up'].map(field);
    if ((distance || across || up) && this.sheet.spots?.length === 2) {
      const [a, b] = this.sheet.spots;
      acts.push({ do: 'size photo', name, a, b, distance, across, up });
    }
    const set = {
      ...(field('turn') ? { turn: field('turn') } : {}),
      ...(field('fade %') ? { fade: Math.min(1, Math.max(0.05, Number(field('fade %')) / 100 || 0.5)) } : {}),
    };
    if (Object.keys(set).length) acts.push({ do: 'set photo', name, ...set });
    return acts.length ? acts : null;
  }

  // Two places on the photo, for its size.
  spot(place, at) {
    const under = this.sheet.drawing.photoAt(...at);
    if (under && under.id !== this.photo?.id && !this.sheet.spots?.length) {
      this.held = under.id;
      this.sheet.tell(`${under.name || 'this photo'} is in hand; click two places on it to size it`);
      return;
    }
    this.sheet.spots = this.sheet.spots?.length === 1 ? [...this.sheet.spots, place] : [place];
    this.sheet.drawing.trial(
      this.sheet.spots.length === 2 ? [{ kind: 'line', a: this.sheet.spots[0], b: this.sheet.spots[1] }] : [],
      [],
      place,
    );
    this.sheet.tell(
      this.sheet.spots.length === 2
        ? 'type how far apart they are, or how far across and up; then Enter'
        : 'click the second place',
    );
    if (this.sheet.spots.length === 2) document.querySelector('.belt-field')?.focus();
  }

  // Outlines from a DXF or SVG file, put where they lie in it.
  async bringIn(input) {
    const [file] = input.files;
    input.value = '';
    if (!file) return;
    if (file.size > 16 * 2 ** 20) {
      this.sheet.tell(`${file.name} is larger than 16 MB: save only the outline that is needed`, { tone: 'fault' });
      return;
    }
    this.sheet.tell(`reading ${file.name} …`);
    const form = new FormData();
    form.append('file', file);
    try {
      const job = await finished((await send(this.sheet.path('/outlines'), form)).job);
      if (job.state !== 'done') throw new Problem(job.message, job.hint, 422);
      const { curves, notes } = job.result;
      const done = await this.sheet.act({ do: 'bring in', curves });
      if (done.refused) return;
      this.sheet.fit();
      this.sheet.tell(
        [`${curves.length} curve${curves.length === 1 ? '' : 's'} brought in`, ...notes, done.words]
          .filter(Boolean)
          .join('; '),
      );
    } catch (problem) {
      this.sheet.fail(problem);
    }
  }

  // Take what lies under the pointer in the model behind the sheet.
  async take3d(event) {
    const how = HANDS[this.sheet.hand].takes;
    const hit = this.sheet.bench.viewer.picker.at(event.clientX, event.clientY, 'any');
    if (!hit) {
      this.sheet.tell('no body lies there; click an edge or a face of one', { tone: 'fault' });
      return;
    }
    try {
      /** @type {Wire.Started_TakenCurves} */
      const answer = await post(this.sheet.path('/take'), { how, picked: hit });
      const job = await finished(answer.job);
      if (job.state !== 'done') throw new Problem(job.message, job.hint, 422);
      const done = await this.sheet.act({ do: 'take', curves: job.result.curves });
      if (!done.refused)
        this.sheet.tell(
          `${job.result.curves.length} curve${job.result.curves.length === 1 ? '' : 's'} taken, as construction; G makes them real`,
        );
    } catch (problem) {
      this.sheet.fail(problem);
    }
  }
}
