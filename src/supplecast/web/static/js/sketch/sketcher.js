// The drawing sheet: a sketch shown and edited. What is common to its tools is here; the rules live on the server.

import { Problem, call, post } from '../api.js';
import { HANDS } from './belt.js';
import { Drawing } from './drawing.js';
import { UNITS } from '../facts.js';
import { fixed } from '../numbers.js';
import { ToolInHand } from './tool_in_hand.js';
import { Laying } from './laying.js';
import { Sizing } from './sizing.js';
import { Choosing } from './choosing.js';
import { Bringing } from './bringing.js';
import { Pointer } from './pointer.js';
import { Keys } from './keys.js';
import { Typing } from './typing.js';
import { ModelEdges } from './model_edges.js';

export class Sketcher {
  constructor(bench) {
    this.__v_skip = true; // the page's reactive state must not wrap this
    this.bench = bench;
    this.box = document.getElementById('sketch');
    /** @type {any} */
    this.svg = document.getElementById('drawing');
    this.drawing = new Drawing(this.svg);
    this.panel = document.getElementById('sketch-panel');
    this.input = document.getElementById('size-input');
    this.tag = document.getElementById('aim');
    this.tools = {};
    this.hand = 'choose';
    this.picks = [];
    this.names = [];
    this.sizes = {};
    this.woken = [];
    this.construct = false;
    this.queue = Promise.resolve();
    this.typing = new Typing(this);
    this.model = new ModelEdges(this);
    this.tool = new ToolInHand(this);
    this.laying = new Laying(this);
    this.sizing = new Sizing(this);
    this.choosing = new Choosing(this);
    this.bringing = new Bringing(this);
    this.pointer = new Pointer(this);
    this.keys = new Keys(this);
    for (const kind of ['pointerdown', 'wheel'])
      this.svg.addEventListener(
        kind,
        () => {
          this.touched = true;
        },
        { passive: true },
      );
  }

  get sk() {
    return this.bench.sk;
  }

  get scene() {
    return this.drawing.scene;
  }

  path(rest = '') {
    return `/api/documents/${this.bench.id}/sketches/${this.step}${rest}`;
  }

  tell(say, { lead = null, tone = '', offer = '', onOffer = null } = {}) {
    Object.assign(this.sk, { say, tone, offer });
    if (lead !== null) this.sk.lead = lead;
    this.onOffer = onOffer;
  }

  fail(problem) {
    if (!(problem instanceof Problem)) throw problem;
    const reload = problem.status === 409 || problem.status === 403;
    const lit = problem.answer?.lit || [];
    this.drawing.clashing = new Set(lit);
    this.drawing.draw();
    this.list();
    this.tell([problem.message, problem.hint].filter(Boolean).join(' '), {
      tone: 'fault',
      offer: reload ? 'Reload' : '',
      onOffer: () => location.reload(),
    });
  }

  async open(step, { areas = null } = {}) {
    this.step = step;
    this.areas = areas;
    this.opened = true;
    this.frame = null;
    this.touched = false; // no hand has been on the sheet yet
    this.model.laid = [];
    try {
      /** @type {Wire.SketchAnswer} */
      const answer = await call(this.path());
      this.bench.take(answer);
      this.tools = Object.fromEntries(answer.tools.map((tool) => [tool.name, tool]));
      this.unit = answer.unit;
      Object.assign(this.sk, { on: true, areas: Boolean(areas), name: answer.name, step, more: false });
      this.bench.listPlanes(step);
      await new Promise((resolve) => setTimeout(resolve));
      this.drawing.measure();
      this.drawing.scene = this.drawing.hover = null;
      this.drawing.photosAt = this.path('/photos');
      this.drawing.chosen = new Set(areas ? areas.chosen : []);
      this.take(answer.scene);
      this.fit();
      this.tool.use('choose');
      const url = new URL(location.href);
      url.searchParams.set('sketch', step);
      history.replaceState(null, '', url);
      this.svg.focus({ preventScroll: true });
      this.lookAt();
      document.documentElement.dataset.sketching = step;
    } catch (problem) {
      this.sk.on = false;
      this.bench.fail(problem);
    }
  }

  async close() {
    await this.queue;
    this.opened = false;
    Object.assign(this.sk, { on: false });
    delete document.documentElement.dataset.sketching;
    const url = new URL(location.href);
    url.searchParams.delete('sketch');
    history.replaceState(null, '', url);
    this.bench.viewer.lookStraight(null);
    this.bench.viewer.cutAt(null);
    this.bench.tell('Ready:', 'the sketch is kept; / adds a step that uses it');
    return this.bench.rebuild();
  }

  // Turn the model so that the plane is seen straight; it stands behind the sheet, faint.
  async lookAt() {
    const result = await this.bench.rebuild({ upto: this.step });
    if (!this.opened || !result) return;
    this.frame = result.frames[this.step] || null;
    this.sk.plain = !result.bodies.length || !this.frame;
    this.svg.classList.toggle('is-plain', this.sk.plain);
    this.sk.cut = false;
    if (!this.scene.entities.length && !this.touched) this.fit(); // never under a hand that draws already
    this.follow();
    this.model.look(result.bodies.filter((body) => body.solid).map((body) => body.id));
    const moved = Object.entries(result.taken[this.step] || {}).filter(
      ([id, [x, y]]) =>
        this.scene.points[id] && Math.hypot(x - this.scene.points[id][0], y - this.scene.points[id][1]) > 1e-6,
    );
    if (!moved.length) return;
    const done = await this.act({ do: 'dropped', points: Object.fromEntries(moved) });
    if (!done.refused) this.tell('the model has moved on: what was taken from it follows');
  }

  follow() {
    if (this.frame) this.bench.viewer.lookStraight(this.frame, this.drawing.centre, this.drawing.unit);
  }

  fit() {
    const extent = this.drawing.extent() || this.model.extent();
    if (extent) this.drawing.fit(...extent);
    else {
      this.drawing.unit = 0.2;
      this.drawing.centre = [0, 0];
    }
    this.redraw();
  }

  // What has outgrown the sheet, or begins far smaller than it, is fitted; never under a hand that has moved it aside.
  keepInView(before) {
    const now = this.drawing.extent();
    if (!now) return;
    const { width, height, unit } = this.drawing;
    const [low, high] = [this.drawing.mm(0, height), this.drawing.mm(width, 0)];
    const inside = (box) => !box || [0, 1].every((i) => box[0][i] >= low[i] && box[1][i] <= high[i]);
    const tiny = !before && Math.max(now[1][0] - now[0][0], now[1][1] - now[0][1]) < 60 * unit;
    if (inside(before) && (!inside(now) || tiny)) this.fit();
  }

  redraw() {
    this.drawing.draw();
    this.follow();
    this.sizing.placeInput();
  }

  toggleCut() {
    if (!this.frame) return;
    this.sk.cut = !this.sk.cut;
    this.bench.viewer.cutAt(this.sk.cut ? this.frame : null);
  }

  take(scene) {
    this.drawing.clashing = new Set();
    const held = new Set((this.scene?.constraints || []).flatMap((row) => row.ids));
    this.drawing.fresh = new Set(
      this.scene ? scene.constraints.flatMap((row) => row.ids).filter((id) => !held.has(id)) : [],
    );
    const known = new Set([
      ...Object.keys(scene.points),
      ...scene.entities.map((e) => e.id),
      ...scene.sizes.map((s) => s.id),
      'ox',
      'oy',
      ...(scene.regions || []).map((r) => r.key),
      ...scene.constraints.flatMap((row) => row.ids),
    ]);
    this.drawing.chosen = new Set([...this.drawing.chosen].filter((id) => known.has(id)));
    this.drawing.scene = null;
    this.drawing.plain = Boolean(this.areas);
    this.drawing.show(scene);
    const closed = scene.regions.filter((region) => region.filled).length;
    const scale = UNITS[this.unit] || 1;
    Object.assign(this.sk, {
      freedoms: scene.freedoms,
      freedomWords: !scene.entities.length
        ? 'An empty sheet'
        : scene.freedoms === 0
          ? 'Fully fixed'
          : scene.freedoms === 1
            ? 'freedom left'
            : 'freedoms left',
      share: Math.min(100, scene.freedoms * 4),
      regionWords: scene.regions.length
        ? `${closed} of ${scene.regions.length}`
        : scene.crowded
          ? 'not told'
          : 'none closed',
      area: closed ? `${fixed(scene.area / scale ** 2, 2)}` : '–',
      gapTone: scene.regions.length ? 'text-soft' : 'text-fault',
      areaUnit: closed ? `${this.unit}²` : '',
      gaps: scene.gaps.map((gap, index) => ({ index, words: this._gapWords(gap, scale), closes: gap.closes })),
      about: this._about(scene),
      empty: scene.entities.length === 0 && this.hand === 'choose',
    });
    this.list();
    this.tool.chips();
    document.documentElement.dataset.scene = String((this.counted = (this.counted || 0) + 1));
  }

  _gapWords({ at, width }, scale) {
    const place = at.map((c) => fixed(c / scale, 2)).join(', ');
    return `(${place})${width === null ? '' : `, ${fixed(width / scale, 3)} ${this.unit} apart`}`;
  }

  _about(scene) {
    if (!scene.entities.length) return 'Nothing is drawn yet: click to draw, and what is still loose shows amber.';
    if (scene.crowded) return scene.crowded;
    const closed = scene.regions.length
      ? scene.gaps.length
        ? 'What is closed can be used; what is open is left out.'
        : 'The outline is closed and can be used as it is.'
      : scene.gaps.length
        ? 'The outline is open.'
        : 'It encloses nothing.';
    return scene.freedoms ? `What is loose is amber: drag it, or fix it by a size. ${closed}` : closed;
  }

  list() {
    const { lit, clashing, chosen } = this.drawing;
    const state = (ids) =>
      ids.some((id) => clashing.has(id))
        ? 'is-clashing'
        : ids.some((id) => lit.has(id) || chosen.has(id))
          ? 'is-lit'
          : '';
    this.sk.sizes = this.scene.sizes.map((size) => ({
      id: size.id,
      title: size.title,
      text: size.text,
      state: state([size.id]),
      driven: size.driven,
      word: size.driven ? 'hold' : 'drive',
      plain: size.type !== 'count',
    }));
    this.sk.rows = this.scene.constraints.map((row) => ({
      key: row.ids[0],
      ids: row.ids.join(' '),
      words: row.twice ? `${row.words}: said twice` : row.words,
      state: state(row.ids),
    }));
    this.sk.curves = Object.entries(this.scene.names).map(([id, words]) => ({ id, words, state: state([id]) }));
  }

  // Do acts and keep them. They wait for each other, since each names the revision it was made from.
  /** @returns {Promise<any>} the answer, or what was refused */
  act(...acts) {
    const job = this.queue.then(async () => {
      try {
        /** @type {Wire.ActsAnswer} */
        const answer = await post(this.path('/acts'), { base: this.bench.revision, acts });
        this.bench.take(answer);
        const before = this.drawing.extent();
        this.take(answer.scene);
        this.keepInView(before);
        if (answer.words) this.tell(answer.words);
        return answer;
      } catch (problem) {
        this.fail(problem);
        return { refused: problem.answer || {} };
      }
    });
    this.queue = job.then(
      () => {},
      () => {},
    ); // whatever happened, the next act may go on
    return job;
  }

  // What acts would give, shown and not kept; only the newest answer counts.
  async tryOut(acts) {
    if (this.trying) {
      this.wanted = acts;
      return;
    }
    this.trying = true;
    this.wanted = null;
    const serial = this.counted;
    try {
      /** @type {Wire.ActsAnswer} */
      const answer = await post(this.path('/acts'), { acts, try: true });
      if (serial !== this.counted || this.hand === 'choose' || this.hand === 'photo') return;
      if (!answer.scene) {
        this.drawing.trial([]);
        this.tell(answer.words, { tone: 'fault' });
      } else {
        const shapeOf = (/** @type {Wire.DrawnEntity} */ { a, b, c, r, poles, points }) =>
          JSON.stringify([a, b, c, r, poles, points]);
        const there = new Set(this.scene.entities.map(shapeOf));
        const fresh = answer.scene.entities.filter((entity) => !there.has(shapeOf(entity)));
        const sizes =
          this.hand === 'size'
            ? answer.scene.sizes.filter((size) => !this.scene.sizes.some((old) => old.id === size.id))
            : [];
        const shapes = sizes.flatMap((size) => [
          ...size.lines.map(([x1, y1, x2, y2]) => ({ kind: 'line', a: [x1, y1], b: [x2, y2] })),
          ...size.arcs.map(([cx, cy, r, from, to]) => ({
            kind: 'arc',
            a: [cx + r * Math.cos(from), cy + r * Math.sin(from)],
            b: [cx + r * Math.cos(to), cy + r * Math.sin(to)],
            r,
            ccw: true,
            large: to - from > Math.PI,
          })),
        ]);
        this.drawing.trial([...fresh, ...shapes]);
        this.tell(
          answer.words || (sizes.length ? `${sizes[0].text}: click to put it there` : HANDS[this.hand].ready || ''),
        );
      }
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      if (serial === this.counted) {
        this.drawing.trial([]);
        this.tell([problem.message, problem.hint].join(' '), { tone: 'fault' });
      }
    } finally {
      this.trying = false;
      if (this.wanted) this.tryOut(this.wanted);
    }
  }

  async travel(way) {
    await this.queue;
    try {
      const answer = await post(`/api/documents/${this.bench.id}/${way}`, { upto: null });
      this.bench.take(answer);
      const again = await call(this.path()).catch(() => null);
      if (!again) {
        await this.close();
        return;
      } // the sketch itself was undone
      this.drawing.trial([]);
      this.picks = [];
      this.take(again.scene);
      this.tell(way === 'undo' ? 'Undone; Ctrl+Shift+Z does it again' : `Done again: ${answer.change}`);
    } catch (problem) {
      this.fail(problem);
    }
  }

  entity(id) {
    return this.scene.entities.find((entity) => entity.id === id);
  }

  focusSheet() {
    this.svg.focus({ preventScroll: true });
  }

  // Show again what is kept.
  async reload() {
    try {
      this.take((await call(this.path())).scene);
    } catch (problem) {
      this.fail(problem);
    }
  }
}
