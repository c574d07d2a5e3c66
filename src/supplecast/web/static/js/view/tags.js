// Words and buttons pinned to places of the model: they go along when the view turns.

import { Vector3 } from 'three';

export class Tags {
  constructor(view) {
    this.view = view;
    this.box = document.createElement('div');
    this.box.className = 'tags';
    view.holder.append(this.box);
    this.groups = new Map();
  }

  // Pin these under a name, in place of what was pinned under it: [{at, words, kind, act, label, shift}].
  set(name, tags) {
    for (const { element } of this.groups.get(name) || []) element.remove();
    this.groups.set(
      name,
      tags.map((tag) => ({ ...tag, element: this._made(tag) })),
    );
    this.place();
  }

  get(name) {
    return this.groups.get(name) || [];
  }

  _made({ words, kind = '', act = null, label = '' }) {
    const element = document.createElement(act ? 'button' : 'span');
    element.className = `tag ${kind}`;
    element.textContent = words;
    if (act) {
      element.setAttribute('type', 'button');
      element.addEventListener('click', act);
    }
    if (label) element.setAttribute('aria-label', label);
    this.box.append(element);
    return element;
  }

  place() {
    const { camera } = this.view.eye;
    const { clientWidth: width, clientHeight: height } = this.view.holder;
    const spot = new Vector3();
    for (const tags of this.groups.values())
      for (const { at, element, shift = [0, 0] } of tags) {
        spot.fromArray(at).project(camera);
        const x = ((spot.x + 1) / 2) * width + shift[0];
        const y = ((1 - spot.y) / 2) * height + shift[1];
        element.style.transform = `translate(${x.toFixed(1)}px, ${y.toFixed(1)}px) translate(-50%, -50%)`;
      }
  }
}
