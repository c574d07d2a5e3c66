// Adding steps: the list to choose from, files brought in, and the new sentence made ready to type in.

import { send } from '../api.js';

const MOST_PICTURE = 24 * 2 ** 20;
const PICTURES = /\.(png|jpe?g|svg)$/i;

/** @type {ThisType<any> & Record<string, any>} */
export const adding = {
  // Steps that can start from what is picked come first.
  openAdd() {
    this.listSteps();
    this.figureFor = '';
    const kinds = new Set(this.chosen.map((item) => (item.face === undefined ? 'edges' : 'faces')));
    const fits = (option) => kinds.size && [...kinds].every((kind) => option.dataset.suits.split(' ').includes(kind));
    for (const option of this.options()) option.dataset.fits = fits(option) ? 'yes' : '';
    this.suitWords = kinds.size ? `For the picked ${[...kinds].join(' and ')} first` : '';
    this.filterAdd();
  },

  options() {
    return [...document.querySelectorAll('[data-add]')];
  },

  // Show the list; Escape, a step chosen or a click elsewhere closes it.
  listSteps() {
    this.adding = true;
    this.modes.enter('adding', () => this.closeList());
  },

  // The figures that can be added to a sketch.
  offerFigures(step) {
    this.figureFor = step;
    this.modes.enter('adding', () => this.closeList());
  },

  closeList() {
    this.adding = false;
    this.figureFor = '';
    this.modes.end('adding');
  },

  filterAdd() {
    this.listSteps();
    const wanted = this.addText.trim().toLowerCase();
    const options = this.options();
    options.forEach((option, index) => {
      option.dataset.rank ||= String(index);
      option.hidden = !option.dataset.words.includes(wanted);
    });
    // What begins with the typed word comes before what only speaks of it, and what suits the picks before the rest.
    const rank = (option) =>
      (option.dataset.words.startsWith(wanted) ? 0 : 2000) +
      (option.dataset.fits ? 0 : 1000) +
      Number(option.dataset.rank);
    for (const option of options.sort((a, b) => rank(a) - rank(b))) option.parentElement.append(option);
  },

  addKey(event) {
    const shown = this.options().filter((option) => !option.hidden);
    if (event.key === 'Enter' && shown.length) {
      event.preventDefault();
      this.add(shown[0].dataset.add);
    }
    if (event.key === 'ArrowDown' && shown.length) {
      event.preventDefault();
      shown[0].focus();
    }
    if (event.key === 'Escape') {
      this.closeList();
      this.addText = '';
      event.target.blur();
      event.stopPropagation();
    }
  },

  async add(type) {
    await this.keepPicks();
    this.closeList();
    this.addText = '';
    document.getElementById('add').blur();
    if (type === 'import') {
      document.getElementById('import').click();
      return;
    }
    if (type === 'sketch') {
      const place = await this.placeAtHand();
      if (place) await this.addSketch(place);
      else this.askPlace((on) => this.addSketch(on));
      return;
    }
    const picked = this.chosen.length ? (await this.refer(this.chosen)).map((one) => one.pick) : [];
    this.ahead = [];
    const { acts, ahead } = this; // read back: what is kept here is not the very list that was put in
    const line = await this.settled(await this.addStep({ type, picked }));
    if (line && acts === this.acts) this.readyField(line, ahead);
    if (this.ahead === ahead) this.ahead = null; // else the next step waits already
    if (line) await this.pickAtOnce(line);
  },

  // A sketch is drawn at once, on the plane it is given.
  async addSketch(on) {
    const before = await this.addStep({ type: 'sketch', values: { on, draw: [] } });
    const line = await this.settled(before);
    if (line) await this.draw(line);
  },

  // Add a step after the standing one; gives the steps that were there before.
  async addStep(step) {
    const before = new Set([...this.sheet.querySelectorAll('.step')].map((line) => line.dataset.line));
    this.chosen = [];
    this.viewer.overlay.light([]);
    const there = this.result?.bodies || [];
    const bodies = there.filter((body) => body.solid).map((body) => body.id);
    const meshes = there.filter((body) => !body.solid && body.role !== 'surface').map((body) => body.id);
    await this.edit({ op: 'add', after: this.standing, bodies, meshes, spot: this.clicked, ...step });
    this.clicked = null;
    if (this.standing && !this.tone) await this.stand(null);
    return before;
  },

  importFile(input) {
    const [file] = input.files;
    const read = file && this.bringIn(file);
    input.value = '';
    return read;
  },

  // A picture chosen for a step.
  async bringPicture(input) {
    const [file] = input.files;
    const { step, field } = input.dataset;
    input.value = '';
    const value = file && (await this.keptPicture(file));
    if (value) await this.edit({ op: 'set', step, field, value });
  },

  // Keep a picture with the others; gives what a step knows it by, or null where it cannot be used.
  async keptPicture(file) {
    if (file.size > MOST_PICTURE) {
      this.tell('Not done:', `${file.name} is larger than ${MOST_PICTURE / 2 ** 20} MB. Save it smaller.`, 'fault');
      return null;
    }
    this.tell('Picture:', `reading ${file.name} …`);
    const form = new FormData();
    form.append('file', file);
    try {
      await this.chain;
      return (await send(this.path('pictures'), form)).art;
    } catch (problem) {
      this.fail(problem);
      return null;
    }
  },

  // A file that is dropped anywhere on the page of a part.
  dropFile(event) {
    const [file] = event.dataTransfer.files;
    if (!file) return;
    event.preventDefault();
    if (file.name.endsWith('.json'))
      this.tell('Not done:', 'A document is imported into a project: drop it there, in the list of projects.', 'fault');
    else if (PICTURES.test(file.name) && this.kind !== 'tool' && !this.sk.on) this.dropPicture(file, event);
    else if (this.kind === 'part' && !this.sk.on) this.bringIn(file);
    else this.tell('Not done:', 'Bodies of a file are brought into a part: open one, and drop it there.', 'fault');
  },

  // A picture dropped on a face is printed there.
  async dropPicture(file, { clientX, clientY }) {
    const hit = this.viewer.picker.at(clientX, clientY, 'faces');
    if (hit?.face === undefined) {
      this.tell('Not done:', 'A picture is printed on a face: drop it on one.', 'fault');
      return;
    }
    const spot = this.viewer.picker.spotAt(clientX, clientY);
    const art = await this.keptPicture(file);
    if (!art) return;
    const picked = (await this.refer([hit])).map((one) => one.pick);
    const line = await this.settled(
      await this.addStep({ type: 'printed art', picked, values: { art, spot, on: picked } }),
    );
    if (line) this.readyField(line, []);
  },

  async bringIn(file) {
    if (file.size > 64 * 2 ** 20) {
      this.tell('Not done:', `${file.name} is larger than 64 MB. Save it smaller.`, 'fault');
      return;
    }
    this.tell('Import:', `reading ${file.name} …`);
    const form = new FormData();
    form.append('file', file);
    try {
      await this.chain;
      const answer = await send(this.path('imports'), form);
      this.take(answer);
      await this.follow(answer.job, { sheet: true, change: answer.change });
    } catch (problem) {
      this.fail(problem);
    }
  },

  // Wait until the new sentence has come; gives its step.
  async settled(before) {
    for (let i = 0; i < 60 || (this.job && !document.activeElement?.closest('input, select') && i < 900); i += 1) {
      // a tool takes its time
      const line = [...this.sheet.querySelectorAll('.step')].find((row) => !before.has(row.dataset.line));
      if (line) {
        line.scrollIntoView({ block: 'nearest' });
        return line.dataset.line;
      }
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    return null;
  },

  // The first field of a new sentence is ready to be typed in, and has what was typed ahead.
  readyField(step, ahead) {
    // Sizes of figures, then the numbers in the order of the sentence, but how far a plane is raised.
    const kinds = [
      '.detail:not(.more) input.number',
      '.sentence input.number:not([data-kind="text"]):not([data-field$=".offset"])',
      '.sentence input.number:not([data-kind="text"])',
      'input.number',
    ];
    const line = this.lineOf(step);
    const seen = (kind) => [...line.querySelectorAll(kind)].find((control) => control.offsetParent);
    const first = kinds.map(seen).find(Boolean);
    if (!first) return;
    first.focus();
    first.select();
    const end = ahead.indexOf('Enter');
    const typed = (end < 0 ? ahead : ahead.slice(0, end)).join('');
    if (typed) {
      first.value = typed;
      first.setSelectionRange(typed.length, typed.length);
      first.dispatchEvent(new Event('input', { bubbles: true }));
    }
    if (end >= 0) first.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }));
  },
};
