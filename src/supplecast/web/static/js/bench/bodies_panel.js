// The list of bodies: names, looks, what is hidden, and pairs that should not be as they are.

import { post } from '../api.js';
import { crossAt } from '../view/strokes.js';
import { bodyRows, mend } from './bodies.js';
import { thingRows, thingsOf } from './things.js';

/** @type {ThisType<any> & Record<string, any>} */
export const bodiesPanel = {
  listBodies() {
    this.bodies = bodyRows(this.result, this.viewer, this.lookOpen, this.folded);
    this.things = thingRows(this.allThings(this.result), this.seen);
  },

  get listSign() {
    return this.listOpen.all ? '▾' : '▸';
  },

  get bodiesSign() {
    return this.listOpen.bodies ? '▾' : '▸';
  },

  // The whole list folds, and so does each group in it; how it stands is kept.
  foldList(group) {
    this.listOpen = { ...this.listOpen, [group]: !this.listOpen[group] };
    this.seen.set([`open/${group}`], this.listOpen[group]);
  },

  foldGroup(key) {
    this.seen.set([`open/${key}`], !this.seen.shown(`open/${key}`, false));
    this.listBodies();
  },

  allThings(result) {
    const names = new Map();
    for (const line of this.sheet.querySelectorAll('.step')) names.set(line.dataset.line, line.dataset.label);
    return thingsOf(result, names);
  },

  // A body is out of sight where the person said so; else where the document does, or a finished tool is first shown without it.
  hiddenBodies(bodies) {
    const alone = this.gauges.alone();
    if (alone.size) return new Set(bodies.filter((body) => !alone.has(body.id)).map((body) => body.id));
    const shown = (body) => this.seen.shown(`body/${body.id}`, !body.look.hidden && !this.aside.has(body.id));
    return new Set(bodies.filter((body) => !shown(body)).map((body) => body.id));
  },

  // The part that a body of an assembly is, with the others around it.
  async openInPlace(body) {
    this.tell('Open in place:', 'finding where the others stand …');
    try {
      await this.chain;
      /** @type {Wire.InPlaceAnswer} */
      const answer = await post(this.path('in-place'), { body });
      window.location.href = `/documents/${encodeURIComponent(answer.document)}`;
    } catch (fault) {
      this.fail(fault);
    }
  },

  // What a click on a body's name does just now.
  bodyTitle(shown) {
    return this.picking ? 'Pick all of it' : shown ? 'Hide' : 'Show';
  },

  toggleBody(id) {
    if (this.picking && this.result.bodies.some((body) => body.id === id)) {
      this.pickBody(id);
      return;
    }
    const ids = this.bodies.find((row) => row.id === id)?.ids || [id];
    this.showBodies(ids, !ids.some((one) => !this.viewer.hidden.has(one)));
  },

  toggleBodies() {
    const ids = this.result.bodies.map((body) => body.id);
    this.showBodies(ids, !ids.some((id) => !this.viewer.hidden.has(id)));
  },

  showBodies(ids, shown) {
    this.seen.set(
      ids.map((id) => `body/${id}`),
      shown,
    );
    this.viewer.setHidden(ids, !shown);
    this.listBodies();
  },

  toggleThing(key) {
    const row = this.things.find((one) => one.key === key);
    this.seen.set(row.keys, !row.shown);
    this.redraw();
    this.drawGround();
    this.listBodies();
  },

  drawGround() {
    this.viewer.ground.drawAxes(this.seen.shown('axes', !this.result.bodies.length));
    this.showPlanes();
  },

  lightBody(id, name) {
    if (this.picking || this.measuring) return;
    this.viewer.overlay.light(id ? [{ body: id, edges: this.viewer.picker.edgesOf(id) }] : []);
    if (id)
      this.tell(
        `${name}:`,
        this.result?.bodies.some((body) => body.id === id)
          ? 'lit in the view; used up by this step if it says so'
          : 'is used up by this step',
      );
  },

  // The head of an assembly folds; of a body the look opens.
  openLook(id) {
    const head = this.bodies.find((row) => row.id === id);
    if (head?.head) {
      if (!this.folded.delete(id)) this.folded.add(id);
      this.listBodies();
      return;
    }
    this.lookOpen = this.lookOpen === id ? '' : id;
    this.listBodies();
    if (this.lookOpen) this.modes.enter('look', () => this.openLook(this.lookOpen));
    else this.modes.end('look');
  },

  nameBody(id, event) {
    this.edit({ op: 'look', body: id, name: event.target.value.trim() });
  },

  colourBody(id, colour) {
    this.edit({ op: 'look', body: id, colour });
  },

  clearBody(id, clear) {
    this.edit({ op: 'look', body: id, clear: !clear });
  },

  showContact(index) {
    const { place } = this.result.contacts[index];
    this.viewer.overlay.setLines(crossAt(place, this.viewer.reach() * 0.06));
    this.tell('Here:', this.contacts[index].words);
  },

  mendContact(index) {
    this.viewer.overlay.setLines([]);
    mend(this, this.result.contacts[index]);
  },
};
