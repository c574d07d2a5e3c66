// What is chosen on the sheet, and what can be done with it: held, erased, made construction.

import { CONSTRAINTS } from './belt.js';

export class Choosing {
  constructor(sheet) {
    this.sheet = sheet;
  }

  chosenCurves() {
    return [...this.sheet.drawing.chosen].filter((id) => this.sheet.entity(id) || id === 'ox' || id === 'oy');
  }

  choose(id, more) {
    const { chosen } = this.sheet.drawing;
    if (!more && !(chosen.has(id) && chosen.size === 1)) {
      if (!chosen.has(id) || chosen.size > 1) chosen.clear();
    }
    if (chosen.has(id)) chosen.delete(id);
    else chosen.add(id);
    this.sheet.drawing.draw();
    this.sheet.list();
    this.sheet.tool.chips();
    this.sheet.tool.preview();
  }

  // Other points that lie where one lies.
  alike(id) {
    const at = this.sheet.scene?.points[id];
    if (!at) return [];
    const { unit, scene } = this.sheet.drawing;
    return Object.entries(scene.points)
      .filter(([other, p]) => other !== id && Math.hypot(p[0] - at[0], p[1] - at[1]) < 0.5 * unit)
      .map(([other]) => other);
  }

  // Which constraints suit what is chosen: {id, word, key, words, acts}.
  possible() {
    const chosen = [...this.sheet.drawing.chosen];
    const points = chosen.filter((id) => this.sheet.scene.points[id]);
    if (points.length === 1 && chosen.length === 1) points.push(...this.alike(points[0]).slice(0, 1)); // one click means both
    const curves = chosen.map((id) => this.sheet.entity(id)).filter(Boolean);
    return Object.entries(CONSTRAINTS)
      .map(([id, entry]) => ({ ...entry, id, acts: entry.acts(points, curves) }))
      .filter((entry) => entry.acts);
  }

  async hold(id) {
    const entry = this.possible().find((one) => one.id === id);
    if (!entry) return;
    const answer = await this.sheet.act(...entry.acts.map(({ type, on }) => ({ do: 'hold', type, on })));
    if (answer.refused) return;
    this.sheet.drawing.chosen.clear();
    this.sheet.drawing.draw();
    this.sheet.list();
    this.sheet.tool.chips();
    this.sheet.tell(`${entry.word} is fixed`);
  }

  // The one chosen curve that has another shape with the same sizes.
  twoWays() {
    const { hand, drawing } = this.sheet;
    const [only] = drawing.chosen.size === 1 ? this.chosenCurves() : [];
    return hand === 'choose' && ['arc', 'spline'].includes(this.sheet.entity(only)?.type) ? only : null;
  }

  async otherWay() {
    const entity = this.twoWays();
    if (!entity) return;
    const answer = await this.sheet.act({ do: 'other way', entity });
    if (!answer.refused && !answer.words) this.sheet.tell('it goes the other way now; B takes it back');
  }

  erase() {
    const names = [...this.sheet.drawing.chosen].filter((id) => id !== 'o' && !id.includes(','));
    if (!names.length) return;
    this.sheet.drawing.chosen.clear();
    this.sheet.act({ do: 'erase', names });
  }

  toggleConstruction() {
    const names = this.chosenCurves();
    if (!names.length) {
      this.sheet.construct = !this.sheet.construct;
      this.sheet.sk.construct = this.sheet.construct;
      this.sheet.tell(
        this.sheet.construct ? 'what is drawn from now on is construction' : 'what is drawn from now on is real',
      );
      return;
    }
    this.sheet.act({ do: 'construction', names, set: !this.sheet.entity(names[0]).construction });
  }

  // All curves that hang together with one by shared ends.
  chainOf(id) {
    const chain = new Set([id]);
    const waiting = [id];
    const kind = this.sheet.entity(id).construction;
    while (waiting.length) {
      const { ends } = this.sheet.entity(waiting.pop());
      for (const other of this.sheet.scene.entities) {
        if (chain.has(other.id) || other.construction !== kind || !other.ends.some((point) => ends.includes(point)))
          continue;
        chain.add(other.id);
        waiting.push(other.id);
      }
    }
    return [...chain];
  }

  closeGap(index) {
    const gap = this.sheet.scene.gaps[index];
    if (gap?.other) this.sheet.act({ do: 'close gap', a: gap.at, b: gap.other });
  }

  doneAreas() {
    const { step, field, sketch } = this.sheet.areas;
    const keys = [...this.sheet.drawing.chosen];
    const all = this.sheet.scene.regions.filter((region) => region.filled).map((region) => region.key);
    const same = keys.length === all.length && all.every((key) => keys.includes(key));
    if (!keys.length) {
      this.sheet.tell('pick at least one area', { tone: 'fault' });
      return;
    }
    this.sheet.close();
    this.sheet.bench.edit({ op: 'set', step, field, value: { sketch, regions: same ? 'all' : keys } });
  }

  chooseIn({ at, box, more }) {
    this.sheet.drawing.frame(null);
    const [low, high] = [
      [Math.min(at[0], box[0]), Math.min(at[1], box[1])],
      [Math.max(at[0], box[0]), Math.max(at[1], box[1])],
    ];
    const inside = ([x, y]) => x >= low[0] && x <= high[0] && y >= low[1] && y <= high[1];
    if (!more) this.sheet.drawing.chosen.clear();
    for (const node of this.sheet.svg.querySelectorAll('[data-curve]')) {
      const b = node.getBBox();
      if (inside([b.x, b.y]) && inside([b.x + b.width, b.y + b.height]))
        this.sheet.drawing.chosen.add(node.dataset.curve);
    }
    for (const id of this.sheet.scene.spare)
      if (inside(this.sheet.drawing.px(this.sheet.scene.points[id]))) this.sheet.drawing.chosen.add(id);
    this.sheet.drawing.draw();
    this.sheet.list();
    this.sheet.tool.chips();
  }
}
