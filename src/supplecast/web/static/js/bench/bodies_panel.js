// The list of bodies: names, looks, what is hidden, and pairs that should not be as they are.

import { crossAt } from '../view/strokes.js';
import { bodyRows, mend } from './bodies.js';

/** @type {ThisType<any> & Record<string, any>} */
export const bodiesPanel = {
  listBodies() {
    this.bodies = bodyRows(this.result, this.viewer, this.lookOpen, this.folded);
  },

  toggleBody(id) {
    const group = this.bodies.find((row) => row.id === id)?.ids;
    if (group) {
      this.toggleAll(group);
      return;
    }
    const hide = !this.viewer.hidden.has(id);
    const alone = this.aside.delete(id);
    this.viewer.setHidden(id, hide);
    this.listBodies();
    if (!alone) this.edit({ op: 'look', body: id, hidden: hide });
  },

  // Bodies alike at several places go together; that stays with this page.
  toggleAll(ids) {
    const hide = ids.some((id) => !this.viewer.hidden.has(id));
    for (const id of ids) {
      if (hide) this.aside.add(id);
      else this.aside.delete(id);
      this.viewer.setHidden(id, hide);
    }
    this.listBodies();
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
