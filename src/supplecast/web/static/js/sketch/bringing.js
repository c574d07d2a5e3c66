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

  get photo() {
    return this.sheet.scene.photos?.at(-1);
  }

  photoActs(field) {
    if (!this.photo) return null;
    const acts = [];
    const name = this.photo.id;
    if (field('distance') && this.sheet.spots?.length === 2)
      acts.push({
        do: 'size photo',
        name,
        a: this.sheet.spots[0],
        b: this.sheet.spots[1],
        distance: field('distance'),
      });
    const set = {
      ...(field('turn') ? { turn: field('turn') } : {}),
      ...(field('fade %') ? { fade: Math.min(1, Math.max(0.05, Number(field('fade %')) / 100 || 0.5)) } : {}),
    };
    if (Object.keys(set).length) acts.push({ do: 'set photo', name, ...set });
    return acts.length ? acts : null;
  }

  // Two places on the photo, for its size.
  spot(place) {
    this.sheet.spots = this.sheet.spots?.length === 1 ? [...this.sheet.spots, place] : [place];
    this.sheet.drawing.trial(
      this.sheet.spots.length === 2 ? [{ kind: 'line', a: this.sheet.spots[0], b: this.sheet.spots[1] }] : [],
      [],
      place,
    );
    this.sheet.tell(
      this.sheet.spots.length === 2 ? 'type how far apart these two places are, then Enter' : 'click the second place',
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
