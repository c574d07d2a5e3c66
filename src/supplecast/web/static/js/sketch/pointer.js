// The pointer on the sheet: clicks, drags, fingers, and what lies under it.

import { Fingers } from '../fingers.js';
import { placed } from '../numbers.js';
import { Problem, post } from '../api.js';
import { HANDS } from './belt.js';

export class Pointer {
  constructor(sheet) {
    this.sheet = sheet;
    this.fingers = new Fingers();
    this._listen();
  }

  _listen() {
    const { svg } = this.sheet;
    svg.addEventListener('pointerdown', (event) => this._down(event));
    svg.addEventListener('pointermove', (event) => this._move(event));
    svg.addEventListener('pointerup', (event) => this._up(event));
    svg.addEventListener('pointercancel', (event) => {
      this.fingers.lift(event);
      this.held = null;
      this.sheet.drawing.frame(null);
    });
    svg.addEventListener('contextmenu', (event) => event.preventDefault());
    svg.addEventListener('dblclick', async (event) => {
      if (this.sheet.tools[this.sheet.hand]) await this.sheet.laying.laid();
      const hit = this.sheet.drawing.at(event.offsetX, event.offsetY);
      if (this.sheet.tools[this.sheet.hand]?.more && this.sheet.picks.length >= 3) {
        this.sheet.picks = this.sheet.picks.slice(0, -1);
        this.sheet.laying.finish();
      } else if (hit?.size) this.sheet.sizing.edit(hit.size);
      else if (hit?.curve && this.sheet.hand === 'choose')
        this._onSpline(hit.curve, event) ||
          ((this.sheet.drawing.chosen = new Set(this.sheet.choosing.chainOf(hit.curve))),
          this.sheet.drawing.draw(),
          this.sheet.list(),
          this.sheet.tool.chips());
    });
    svg.addEventListener(
      'wheel',
      (event) => {
        event.preventDefault();
        this.sheet.drawing.zoom(
          Math.exp(Math.max(-0.4, Math.min(0.4, event.deltaY * 0.0016))),
          event.offsetX,
          event.offsetY,
        );
        this.sheet.redraw();
      },
      { passive: false },
    );
    this.sheet.input.addEventListener('keydown', (event) => {
      event.stopPropagation();
      if (event.key === 'Enter') this.sheet.sizing.keepSize();
      if (event.key === 'Escape') this.sheet.sizing.leave();
    });
    document
      .getElementById('bring-photo')
      .addEventListener('change', (event) => this.sheet.bringing.bringPhoto(event.target));
    document
      .getElementById('bring-in')
      .addEventListener('change', (event) => this.sheet.bringing.bringIn(event.target));
    new ResizeObserver(() => {
      this.sheet.drawing.measure();
      if (!this.sheet.opened) return;
      if (this.sheet.touched) this.sheet.redraw();
      else this.sheet.fit(); // the sheet has come to its own size only now
    }).observe(svg);
    const over = (event) => {
      const row = event.target.closest?.('[data-ids]');
      const ids = row ? row.dataset.ids.split(' ') : [];
      const on = ids.flatMap((id) => [
        id,
        ...(this.sheet.scene?.constraints.find((c) => c.ids.includes(id))?.on || []),
        ...(this.sheet.scene?.sizes.find((s) => s.id === id)?.on || []),
      ]);
      if (on.join() === this.lit) return;
      this.lit = on.join();
      this.sheet.drawing.lit = new Set(on);
      this.sheet.drawing.draw();
    };
    this.sheet.panel.addEventListener('pointerover', over);
    this.sheet.panel.addEventListener('focusin', over);
    this.sheet.panel.addEventListener('pointerleave', over);
  }

  // A double click on a spline puts a point there.
  _onSpline(id, event) {
    if (this.sheet.entity(id).type !== 'spline') return false;
    this.sheet.act({ do: 'insert point', entity: id, at: this.sheet.drawing.mm(event.offsetX, event.offsetY) });
    return true;
  }

  // Two fingers move the sheet and change its scale; true while they do.
  _fingers(event) {
    const two = this.fingers.follow(event);
    if (!two) return false;
    this.held = null;
    const { drawing } = this.sheet;
    drawing.centre = [drawing.centre[0] - two.shift[0] * drawing.unit, drawing.centre[1] + two.shift[1] * drawing.unit];
    drawing.zoom(two.ratio, ...two.at);
    this.sheet.redraw();
    return true;
  }

  // A word beside the pointer: what it is taken for, and the sizes as they lie.
  showTag(text, px = 0, py = 0) {
    this.sheet.tag.hidden = !text;
    this.sheet.tag.textContent = text;
    if (text)
      Object.assign(this.sheet.tag.style, {
        left: `${Math.min(px + 16, this.sheet.drawing.width - 160)}px`,
        top: `${Math.min(py + 18, this.sheet.drawing.height - 40)}px`,
      });
  }

  // What a click may mean with what is in hand: a mark, for one, lies over what it marks and is meant only when choosing.
  _wanted(event) {
    const onlyCurves = ['trim', 'extend', 'cut', 'offset', 'mirror'].includes(this.sheet.hand);
    return {
      regions: Boolean(this.sheet.areas),
      marks: this.sheet.hand === 'choose' && !event.shiftKey,
      points: !onlyCurves,
      sizes: this.sheet.hand === 'choose', // a label lies over what it measures: it is meant only when choosing
      axes: this.sheet.hand === 'mirror',
    };
  }

  _down(event) {
    this.sheet.svg.setPointerCapture(event.pointerId);
    if (this._fingers(event)) return;
    const at = [event.offsetX, event.offsetY];
    const pan =
      event.button === 1 ||
      event.button === 2 ||
      (event.button === 0 && event.shiftKey && this.sheet.tools[this.sheet.hand]);
    const hit = pan ? null : this.sheet.drawing.at(...at, this._wanted(event));
    this.held = { at, last: at, pan, hit, moved: false, more: event.shiftKey || event.ctrlKey || event.metaKey };
    if (this.sheet.hand === 'trim' && !pan && event.button === 0) this.held.stroke = [at];
  }

  _move(event) {
    if (this._fingers(event)) return;
    const at = [event.offsetX, event.offsetY];
    this.at = at;
    const { held } = this;
    if (held) {
      if (!held.moved && Math.hypot(at[0] - held.at[0], at[1] - held.at[1]) < 4) return;
      held.moved = true;
      if (held.pan) {
        this.sheet.drawing.centre = [
          this.sheet.drawing.centre[0] - (at[0] - held.last[0]) * this.sheet.drawing.unit,
          this.sheet.drawing.centre[1] + (at[1] - held.last[1]) * this.sheet.drawing.unit,
        ];
        held.last = at;
        this.sheet.redraw();
      } else if (held.stroke) {
        held.stroke.push(at);
        this.sheet.drawing.stroke(held.stroke);
      } else if (this.sheet.hand === 'photo') {
        const photo = this.sheet.bringing.photo;
        if (!photo || photo.locked || this.sheet.drawing.photoAt(...held.at)?.id !== photo.id) return;
        const [from, to] = [this.sheet.drawing.mm(...held.at), this.sheet.drawing.mm(...at)];
        this.sheet.drawing.shifted = {
          id: photo.id,
          at: [photo.at[0] + to[0] - from[0], photo.at[1] + to[1] - from[1]],
        };
        this.sheet.drawing.draw();
      } else if (this.sheet.hand === 'choose' && !this.sheet.areas) this._pull(event, at);
      else if (this.sheet.tools[this.sheet.hand]) this.sheet.laying.aim(event);
      return;
    }
    if (this.sheet.tools[this.sheet.hand]) {
      this.sheet.laying.aim(event);
      this._hover(null);
      return;
    }
    this._hover(this.sheet.drawing.at(...at, this._wanted(event)));
    const place = this.sheet.drawing.mm(...at);
    this.sheet.sk.place = placed(place, this.sheet.unit);
    if (this.sheet.hand === 'size' && this.sheet.names.length) this.sheet.tryOut([this.sheet.sizing.sizeAct(place)]);
    if (this.sheet.hand === 'trim') this._trimHover(place);
  }

  _hover(hit) {
    const id = hit?.id || null;
    if (id === this.sheet.drawing.hover) return;
    this.sheet.drawing.hover = id;
    this.sheet.drawing.draw();
    const size = id && this.sheet.scene.sizes.find((one) => one.id === id);
    const held = id && this.sheet.scene.constraints.find((row) => row.ids.includes(id));
    const others = this.sheet.choosing.alike(id).length;
    const point = others ? `${others + 1} points here: click, then C joins them` : this.sheet.scene.names[id];
    this.showTag(size ? size.title : held ? held.words : (id && point) || '', this.at?.[0], this.at?.[1]);
  }

  async _trimHover(place) {
    const curve = this.sheet.drawing.hover && this.sheet.entity(this.sheet.drawing.hover);
    if (!curve) {
      this.sheet.drawing.trial([]);
      return;
    }
    if (this.looking) return;
    this.looking = true;
    try {
      /** @type {Wire.TrimAnswer} */
      const answer = await post(this.sheet.path('/trims'), { entity: curve.id, at: place });
      if (this.sheet.hand === 'trim') this.sheet.drawing.trial([answer.piece], [], null, 'is-gone');
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
    } finally {
      this.looking = false;
    }
  }

  // Drag a point or a curve, a label, or a box on empty ground.
  _pull(event, at) {
    const { held } = this;
    const id = held.hit && (held.hit.point || held.hit.curve);
    if (held.hit?.size) {
      const size = this.sheet.scene.sizes.find((one) => one.id === held.hit.size);
      const place = this.sheet.drawing.mm(...at);
      held.label = place;
      const [x, y] = this.sheet.drawing.stands.get(size.id);
      const node = this.sheet.svg.querySelector(`[data-size="${CSS.escape(size.id)}"]`);
      if (node) node.setAttribute('transform', `translate(${at[0] - x} ${at[1] - y})`);
    } else if (id && id !== 'o') this.drag(id, held, this.sheet.drawing.mm(...at));
    else {
      held.box = at;
      this.sheet.drawing.frame(held.at, at);
    }
  }

  async drag(id, held, to) {
    held.to = to;
    if (held.asking || held.refused) return;
    held.asking = true;
    try {
      while (held.to) {
        const target = held.to;
        held.to = null;
        /** @type {Wire.DragAnswer} */
        const answer = await post(this.sheet.path('/drag'), {
          name: id,
          from: this.sheet.drawing.mm(...held.at),
          to: target,
          begin: !held.dragging,
        });
        held.dragging = true;
        held.radii = answer.radii;
        this.sheet.drawing.show(answer.scene);
      }
    } catch (problem) {
      held.refused = true;
      this.sheet.fail(problem);
    } finally {
      held.asking = false;
      if (held.ended) this.drop(held);
    }
  }

  drop(held) {
    if (!held.dragging) return;
    const points = Object.fromEntries(Object.entries(this.sheet.scene.points).filter(([id]) => id !== 'o'));
    const radii = Object.fromEntries(
      Object.entries(held.radii || {}).filter(([id]) => ['circle', 'ellipse'].includes(this.sheet.entity(id)?.type)),
    );
    this.sheet.act({ do: 'dropped', points, radii }).then((answer) => {
      if (answer.refused) this.sheet.reload();
    });
  }

  _up(event) {
    this.fingers.lift(event);
    const { held } = this;
    this.held = null;
    if (!held) return;
    const place = this.sheet.drawing.mm(event.offsetX, event.offsetY);
    if (held.moved) {
      if (held.stroke) {
        this._trimAlong(held.stroke);
        return;
      }
      const { shifted } = this.sheet.drawing;
      this.sheet.drawing.shifted = null;
      if (shifted) this.sheet.act({ do: 'set photo', name: shifted.id, at: shifted.at });
      else if (held.label) this.sheet.act({ do: 'label', constraint: held.hit.size, at: held.label });
      else if (held.box) this.sheet.choosing.chooseIn(held);
      else if (held.dragging || held.asking) {
        held.ended = true;
        if (!held.asking) this.drop(held);
      }
      if (!this.sheet.tools[this.sheet.hand] || held.pan) return;
    }
    if (held.pan || event.button !== 0) return;
    this._click(held, place, event);
  }

  async _click(held, place, event) {
    let { hit } = held;
    if (this.sheet.areas) {
      if (hit?.region) {
        this.sheet.choosing.choose(hit.region, true);
      }
      return;
    }
    if (this.sheet.tools[this.sheet.hand]) {
      this.sheet.aimed = null;
      await this.sheet.laying.clickAt(place, event.altKey);
      return;
    }
    if (['size', 'fix'].includes(this.sheet.hand)) hit ||= await this.sheet.model.at(...held.at);
    if (this.sheet.hand === 'size') {
      await this.sheet.sizing.sizeClick(hit, place);
      return;
    }
    const curve = hit?.curve;
    const single = HANDS[this.sheet.hand].single;
    if (this.sheet.hand === 'trim') {
      if (curve) this.sheet.act({ do: 'trim', cuts: [[curve, place]] }).then(() => this.sheet.drawing.trial([]));
      return;
    }
    if (single) {
      const acts = single({
        curve,
        point: hit?.point,
        place,
        field: (name) => this.sheet.tool.field(name),
        options: this.sheet.options,
        sketcher: this.sheet,
      });
      if (acts) await this.sheet.act(...acts);
      else this.sheet.tell(HANDS[this.sheet.hand].say);
      return;
    }
    if (this.sheet.hand === 'photo') {
      this.sheet.bringing.spot(place, held.at);
      return;
    }
    if (HANDS[this.sheet.hand].takes) {
      this.sheet.bringing.take3d(event);
      return;
    }
    if (this.sheet.hand === 'offset' && curve && !held.more) {
      this.sheet.drawing.chosen = new Set(this.sheet.choosing.chainOf(curve));
      this.sheet.drawing.draw();
      this.sheet.list();
      this.sheet.tool.preview();
      return;
    }
    if (!hit) {
      this.sheet.drawing.chosen.clear();
      this.sheet.drawing.draw();
      this.sheet.list();
      this.sheet.tool.chips();
      this.sheet.tool.preview();
      return;
    }
    if (hit.size && this.sheet.drawing.chosen.has(hit.size)) {
      this.sheet.sizing.edit(hit.size);
      return;
    }
    this.sheet.choosing.choose(hit.id, held.more || this.sheet.hand !== 'choose');
  }

  // Trim every curve that the pointer was dragged across, where it crossed it.
  _trimAlong(stroke) {
    this.sheet.drawing.stroke(null);
    const cuts = [];
    for (let i = 1; i < stroke.length; i += 1) {
      const [[ax, ay], [bx, by]] = [stroke[i - 1], stroke[i]];
      const steps = Math.max(1, Math.ceil(Math.hypot(bx - ax, by - ay) / 3));
      for (let k = 1; k <= steps; k += 1) {
        const at = [ax + ((bx - ax) * k) / steps, ay + ((by - ay) * k) / steps];
        const curve = this.sheet.drawing._nearCurve(...at, 2.2);
        const last = cuts.at(-1);
        if (curve && !(last && last[0] === curve && Math.hypot(last[2][0] - at[0], last[2][1] - at[1]) < 14))
          cuts.push([curve, this.sheet.drawing.mm(...at), at]);
      }
    }
    if (cuts.length) this.sheet.act({ do: 'trim', cuts: cuts.map(([curve, place]) => [curve, place]) });
  }
}
