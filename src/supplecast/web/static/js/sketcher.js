// The drawing sheet: pointer and keys on a sketch, the tool in hand, and what it waits for. The rules live on the server.

import { Drawing } from './drawing.js';
import { Problem, call, finished, post, send } from './api.js';
import { BELT, CONSTRAINTS, HANDS, figuresOf, shortOf } from './belt.js';

const UNITS = { mm: 1, cm: 10, m: 1000, in: 25.4 };
const fixed = (value, digits) => Number(value).toFixed(digits).replace(/(\.\d*?)0+$/, '$1').replace(/\.$/, '');
const KEYS = '1–0 tools, Shift for the second row · letters in the foot fix what is chosen · G construction · D ways to move · A arc or line in a chain · W view · C cut away · Del erases · Ctrl+Z undo · Esc one level back';

export class Sketcher {
  constructor(bench) {
    this.__v_skip = true; // the page's reactive state must not wrap this
    this.bench = bench;
    this.box = document.getElementById('sketch');
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
    this._listen();
  }

  get sk() { return this.bench.sk; }
  get scene() { return this.drawing.scene; }

  path(rest = '') { return `/api/documents/${this.bench.id}/sketches/${this.step}${rest}`; }

  tell(say, { lead = null, tone = '', offer = '', onOffer = null } = {}) {
    Object.assign(this.sk, { say, tone, offer });
    if (lead !== null) this.sk.lead = lead;
    this.onOffer = onOffer;
  }

  fail(problem) {
    if (!(problem instanceof Problem)) throw problem;
    const reload = problem.status === 409 || problem.status === 403;
    const lit = problem.told?.lit || [];
    this.drawing.clashing = new Set(lit);
    this.drawing.draw();
    this.list();
    this.tell([problem.message, problem.hint].filter(Boolean).join(' '), { tone: 'fault', offer: reload ? 'Reload' : '', onOffer: () => location.reload() });
  }

  // --- coming and going ----------------------------------------------------------------------------------------

  async open(step, { areas = null } = {}) {
    this.step = step;
    this.areas = areas;
    this.opened = true;
    try {
      const told = await call(this.path());
      this.bench.take(told);
      this.tools = Object.fromEntries(told.tools.map((tool) => [tool.name, tool]));
      this.unit = told.unit;
      Object.assign(this.sk, { on: true, areas: Boolean(areas), name: told.name, step, more: false });
      await new Promise((resolve) => setTimeout(resolve));
      this.drawing.measure();
      this.drawing.scene = this.drawing.hover = null;
      this.drawing.photosAt = this.path('/photos');
      this.drawing.chosen = new Set(areas ? areas.chosen : []);
      this.take(told.scene);
      this.fit();
      this.use('choose');
      const url = new URL(location.href);
      url.searchParams.set('sketch', step);
      history.replaceState(null, '', url);
      this.svg.focus({ preventScroll: true });
      this.lookAt();
      document.documentElement.dataset.sketching = step;
    } catch (problem) { this.sk.on = false; this.bench.fail(problem); }
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
    this.follow();
    const moved = Object.entries(result.taken[this.step] || {}).filter(([id, [x, y]]) => this.scene.points[id] && Math.hypot(x - this.scene.points[id][0], y - this.scene.points[id][1]) > 1e-6);
    if (!moved.length) return;
    const done = await this.act({ do: 'dropped', points: Object.fromEntries(moved) });
    if (!done.refused) this.tell('the model has moved on: what was taken from it follows');
  }

  follow() {
    if (this.frame) this.bench.viewer.lookStraight(this.frame, this.drawing.centre, this.drawing.unit);
  }

  fit() {
    const extent = this.drawing.extent();
    if (extent) this.drawing.fit(...extent);
    else { this.drawing.unit = 0.2; this.drawing.centre = [0, 0]; }
    this.redraw();
  }

  redraw() { this.drawing.draw(); this.follow(); this._placeInput(); }

  toggleCut() {
    if (!this.frame) return;
    this.sk.cut = !this.sk.cut;
    this.bench.viewer.cutAt(this.sk.cut ? this.frame : null);
  }

  // --- what the server tells -----------------------------------------------------------------------------------

  take(scene) {
    this.drawing.clashing = new Set();
    const known = new Set([...Object.keys(scene.points), ...scene.entities.map((e) => e.id), ...scene.sizes.map((s) => s.id), ...(scene.regions || []).map((r) => r.key), ...scene.constraints.flatMap((row) => row.ids)]);
    this.drawing.chosen = new Set([...this.drawing.chosen].filter((id) => known.has(id)));
    this.drawing.scene = null;
    this.drawing.showWays = !this.areas && (this.waysOn ?? scene.directions.length <= 10);
    this.drawing.plain = Boolean(this.areas);
    this.drawing.show(scene);
    const closed = scene.regions.filter((region) => region.filled).length;
    const scale = UNITS[this.unit] || 1;
    Object.assign(this.sk, {
      freedoms: scene.freedoms,
      freedomWords: !scene.entities.length ? 'An empty sheet' : scene.freedoms === 0 ? 'Fully fixed' : scene.freedoms === 1 ? 'freedom left' : 'freedoms left',
      share: Math.min(100, scene.freedoms * 4),
      regionWords: scene.regions.length ? `${closed} of ${scene.regions.length}` : 'none closed',
      area: closed ? `${fixed(scene.area / scale ** 2, 2)}` : '–',
      areaUnit: closed ? `${this.unit}²` : '',
      gaps: scene.gaps.map((gap, index) => ({ index, words: `(${fixed(gap.at[0] / scale, 2)}, ${fixed(gap.at[1] / scale, 2)})${gap.width === null ? '' : `, ${fixed(gap.width / scale, 3)} ${this.unit} apart`}`, closes: gap.other !== null })),
      about: this._about(scene),
      empty: scene.entities.length === 0 && this.hand === 'choose',
    });
    this.list();
    this.chips();
    document.documentElement.dataset.scene = String((this.counted = (this.counted || 0) + 1));
  }

  _about(scene) {
    if (!scene.entities.length) return 'Nothing is drawn yet: click to draw, and what is still loose shows amber.';
    const closed = scene.regions.length ? 'The outline is closed and can be used as it is.' : scene.gaps.length ? 'The outline is open.' : 'It encloses nothing.';
    return scene.freedoms ? `What is loose is amber: drag it, or fix it by a size. ${closed}` : closed;
  }

  list() {
    const { lit, clashing, chosen } = this.drawing;
    const state = (ids) => (ids.some((id) => clashing.has(id)) ? 'is-clashing' : ids.some((id) => lit.has(id) || chosen.has(id)) ? 'is-lit' : '');
    this.sk.sizes = this.scene.sizes.map((size) => ({ id: size.id, title: size.title, text: size.text, state: state([size.id]), driven: size.driven, word: size.driven ? 'hold' : 'drive' }));
    this.sk.rows = this.scene.constraints.map((row) => ({ key: row.ids[0], ids: row.ids.join(' '), words: row.twice ? `${row.words}: said twice` : row.words, state: state(row.ids) }));
    this.sk.curves = Object.entries(this.scene.names).map(([id, words]) => ({ id, words, state: state([id]) }));
  }

  // Do acts and keep them. They wait for each other, since each names the revision it was made from.
  act(...acts) {
    const job = this.queue.then(async () => {
      try {
        const told = await post(this.path('/acts'), { base: this.bench.revision, acts });
        this.bench.take(told);
        this.take(told.scene);
        if (told.words) this.tell(told.words);
        return told;
      } catch (problem) {
        this.fail(problem);
        return { refused: problem.told || {} };
      }
    });
    this.queue = job.then(() => {}, () => {}); // whatever happened, the next act may go on
    return job;
  }

  // What acts would give, shown and not kept; only the newest answer counts.
  async tryOut(acts) {
    if (this.trying) { this.wanted = acts; return; }
    this.trying = true;
    this.wanted = null;
    const serial = this.counted;
    try {
      const told = await post(this.path('/acts'), { acts, try: true });
      if (serial !== this.counted || this.hand === 'choose' || this.hand === 'photo') return;
      if (!told.scene) { this.drawing.trial([]); this.tell(told.words, { tone: 'fault' }); } else {
        const shapeOf = ({ a, b, c, r, poles, points }) => JSON.stringify([a, b, c, r, poles, points]);
        const there = new Set(this.scene.entities.map(shapeOf));
        const fresh = told.scene.entities.filter((entity) => !there.has(shapeOf(entity)));
        const sizes = this.hand === 'size' ? told.scene.sizes.filter((size) => !this.scene.sizes.some((old) => old.id === size.id)) : [];
        const shapes = sizes.flatMap((size) => [
          ...size.lines.map(([x1, y1, x2, y2]) => ({ kind: 'line', a: [x1, y1], b: [x2, y2] })),
          ...size.arcs.map(([cx, cy, r, from, to]) => ({ kind: 'arc', a: [cx + r * Math.cos(from), cy + r * Math.sin(from)], b: [cx + r * Math.cos(to), cy + r * Math.sin(to)], r, ccw: true, large: to - from > Math.PI })),
        ]);
        this.drawing.trial([...fresh, ...shapes]);
        this.tell(told.words || (sizes.length ? `${sizes[0].text}: click to put it there` : HANDS[this.hand].ready || ''));
      }
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      if (serial === this.counted) { this.drawing.trial([]); this.tell([problem.message, problem.hint].join(' '), { tone: 'fault' }); }
    } finally {
      this.trying = false;
      if (this.wanted) this.tryOut(this.wanted);
    }
  }

  async travel(way) {
    await this.queue;
    try {
      const told = await post(`/api/documents/${this.bench.id}/${way}`, { upto: null });
      this.bench.take(told);
      const again = await call(this.path()).catch(() => null);
      if (!again) { await this.close(); return; } // the sketch itself was undone
      this.drawing.trial([]);
      this.picks = [];
      this.take(again.scene);
      this.tell(way === 'undo' ? 'Undone; Ctrl+Shift+Z does it again' : `Done again: ${told.change}`);
    } catch (problem) { this.fail(problem); }
  }

  // --- the tool in hand ----------------------------------------------------------------------------------------

  use(hand) {
    this.hand = hand;
    this._tag('');
    this.picks = [];
    this.names = [];
    this.sizes = {};
    this.guess = null;
    this.spots = null;
    this.kind = '';
    this.drawing.trial([]);
    this.drawing.stroke(null);
    const tool = this.tools[hand];
    this.svg.classList.toggle('is-choosing', !tool);
    this.sk.empty = hand === 'choose' && !this.scene.entities.length;
    this.sk.belt = (this.areas ? [] : BELT).map((slot) => ({ ...slot, state: slot.hands.includes(hand) ? 'is-on' : '', row: slot.row }));
    this.fields();
    this.chips();
    this.prompt();
  }

  // A slot of the belt: taken again it goes to its next variant.
  slot(id) {
    const slot = BELT.find((found) => found.id === id);
    const at = slot.hands.indexOf(this.hand);
    this.sk.more = slot.row === 2;
    this.use(slot.hands[(at + 1) % slot.hands.length]);
  }

  slotRow() { return BELT.find((entry) => entry.hands.includes(this.hand))?.row || 1; }

  fields() {
    const tool = this.tools[this.hand];
    const own = tool ? tool.sizes.map((name) => ({ name, value: '', hint: '', wide: '' })) : (HANDS[this.hand].fields || []).map((field) => ({ hint: '', wide: '', ...field }));
    if (tool) own.push({ name: 'at', value: '', hint: 'x, y', wide: 'is-wide' });
    this.options = { ...(HANDS[this.hand]?.options || {}) };
    this.sk.fields = own;
  }

  field(name) { return (this.sk.fields.find((field) => field.name === name)?.value || '').trim(); }

  prompt() {
    const tool = this.tools[this.hand];
    if (tool) {
      const click = tool.clicks[Math.min(this.picks.length, tool.clicks.length - 1)];
      const done = tool.more && this.picks.length >= 2 ? '; Enter or a double click ends it' : '';
      const chain = this.hand === 'line' && this.picks.length ? '; A turns into an arc, Esc ends the chain' : '';
      this.tell(`click ${click}${done}${chain}${tool.sizes.length ? ', or type numbers' : ''}`, { lead: `${this.hand[0].toUpperCase()}${this.hand.slice(1)}:` });
    } else this.tell(this.areas ? 'click areas to pick or unpick them; Done keeps them, Esc leaves them as they were' : HANDS[this.hand].say, { lead: this.areas ? 'Areas:' : HANDS[this.hand].lead });
  }

  chips() {
    if (!this.sk.on) return;
    const found = [];
    const chip = (id, words, on = false) => found.push({ id, words, state: on ? 'is-on' : '' });
    const slot = BELT.find((entry) => entry.hands.includes(this.hand));
    if (this.areas) { /* areas are picked in the view */ } else if (slot && slot.hands.length > 1) for (const hand of slot.hands) chip(`hand:${hand}`, shortOf(hand), hand === this.hand);
    if (this.hand === 'choose' || this.hand === 'fix') for (const [id, { words }] of this.possible()) chip(`hold:${id}`, words);
    for (const [option, choices] of Object.entries(HANDS[this.hand]?.choices || {})) for (const choice of choices) chip(`option:${option}:${choice}`, choice, this.options[option] === choice);
    if (this.hand === 'size' && this.names.length) for (const kind of this.kinds()) chip(`kind:${kind}`, kind, this.kind === kind);
    if (HANDS[this.hand]?.build) chip('do', 'do it');
    this.sk.chips = found;
  }

  chip(id) {
    const [what, first, second] = id.split(':');
    if (what === 'hand') this.use(first);
    if (what === 'hold') this.hold(first);
    if (what === 'option' && first === 'photo') {
      if (!this.photo) this.tell('bring in a photo first: the panel at the right does', { tone: 'fault' });
      else this.act(second === 'remove' ? { do: 'remove photo', name: this.photo.id } : { do: 'set photo', name: this.photo.id, locked: second === 'lock' });
      return;
    }
    if (what === 'option') { this.options[first] = this.options[first] === second && second === 'copy' ? '' : second; this.chips(); this.preview(); }
    if (what === 'kind') { this.kind = this.kind === first ? '' : first; this.chips(); }
    if (what === 'do') this.build();
  }

  takeOffer() { const next = this.onOffer; this.sk.offer = ''; if (next) next(); }

  // --- choosing and fixing -------------------------------------------------------------------------------------

  entity(id) { return this.scene.entities.find((entity) => entity.id === id); }

  chosenCurves() { return [...this.drawing.chosen].filter((id) => this.entity(id)); }

  choose(id, more) {
    const { chosen } = this.drawing;
    if (!more && !(chosen.has(id) && chosen.size === 1)) { if (!chosen.has(id) || chosen.size > 1) chosen.clear(); }
    if (chosen.has(id)) chosen.delete(id); else chosen.add(id);
    this.drawing.draw();
    this.list();
    this.chips();
    this.preview();
  }

  // Which constraints suit what is chosen: [id, {words, acts}].
  possible() {
    const chosen = [...this.drawing.chosen];
    const points = chosen.filter((id) => this.scene.points[id]);
    const curves = chosen.map((id) => this.entity(id)).filter(Boolean);
    return Object.entries(CONSTRAINTS).map(([id, entry]) => [id, { ...entry, acts: entry.acts(points, curves) }]).filter(([, entry]) => entry.acts);
  }

  async hold(id) {
    const entry = this.possible().find(([key]) => key === id)?.[1];
    if (!entry) return;
    const told = await this.act(...entry.acts.map(({ type, on }) => ({ do: 'hold', type, on })));
    if (told.refused) return;
    this.drawing.chosen.clear();
    this.drawing.draw();
    this.list();
    this.chips();
    this.tell(`${entry.word} is fixed`);
  }

  erase() {
    const names = [...this.drawing.chosen].filter((id) => id !== 'o' && !id.includes(','));
    if (!names.length) return;
    this.drawing.chosen.clear();
    this.act({ do: 'erase', names });
  }

  toggleConstruction() {
    const names = this.chosenCurves();
    if (!names.length) { this.construct = !this.construct; this.sk.construct = this.construct; this.tell(this.construct ? 'what is drawn from now on is construction' : 'what is drawn from now on is real'); return; }
    this.act({ do: 'construction', names, set: !this.entity(names[0]).construction });
  }

  // --- drawing -------------------------------------------------------------------------------------------------

  async aim(event) {
    this.aimed = { px: event.offsetX, py: event.offsetY, free: event.altKey };
    if (this.aiming) return;
    this.aiming = true;
    while (this.aimed) {
      const { px, py, free } = this.aimed;
      this.aimed = null;
      await this._guess(this.drawing.mm(px, py), free);
    }
    this.aiming = false;
  }

  async _guess(cursor, free = false) {
    this.cursor = cursor;
    const { hand, picks } = this;
    try {
      const sizes = Object.fromEntries(this.sk.fields.filter((f) => f.name !== 'at' && f.value.trim()).map((f) => [f.name, f.value]));
      const told = await post(this.path('/guess'), { cursor, unit: this.drawing.unit, tool: hand, picks, sizes, woken: this.woken, free });
      if (hand !== this.hand || picks.length !== this.picks.length || !this.tools[hand]) return;
      this.guess = told;
      this._wake(told.pick);
      this.drawing.trial(told.preview, told.guides, [told.pick.x, told.pick.y]);
      for (const field of this.sk.fields) if (field.name !== 'at') field.hint = told.measures[field.name] || '';
      const scale = UNITS[this.unit] || 1;
      const measured = Object.entries(told.measures).map(([name, value]) => `${name} ${value}`);
      this._tag([...measured, told.words].filter(Boolean).join(' · '), ...this.drawing.px([told.pick.x, told.pick.y]));
      this.sk.place = `x ${(told.pick.x / scale).toFixed(2)}  y ${(told.pick.y / scale).toFixed(2)} ${this.unit}`;
      if (told.refusal) this.tell(told.refusal, { tone: 'fault' });
      else if (this.sk.tone) this.prompt();
    } catch (problem) { if (problem instanceof Problem) this.tell(problem.message, { tone: 'fault' }); else throw problem; }
  }

  // Points that the pointer has been on offer alignment for a while.
  _wake(pick) {
    const on = pick.snaps.find((snap) => ['coincident', 'midpoint'].includes(snap.type))?.on[0];
    if (on && on !== this.woken[0]) this.woken = [on, ...this.woken.filter((id) => id !== on)].slice(0, 6);
  }

  async click(pick) {
    const tool = this.tools[this.hand];
    this.picks = [...this.picks, pick];
    if (this.picks.length < tool.clicks.length || tool.more) { this.prompt(); return; }
    await this.finish();
  }

  async finish() {
    const { hand, picks } = this;
    this._tag('');
    const sizes = Object.fromEntries(this.sk.fields.filter((f) => f.name !== 'at' && f.value.trim()).map((f) => [f.name, f.value]));
    const before = new Set(Object.keys(this.scene.points));
    const told = await this.act({ do: 'draw', tool: hand, picks, sizes, construction: this.construct });
    this.drawing.trial([]);
    if (told.refused) { this.picks = picks.slice(0, -1); return; }
    this.picks = [];
    for (const field of this.sk.fields) field.value = '';
    if (hand === 'line' || hand === 'tangent arc' || this.chain) this._goOn(told, picks, before);
    if (this.hand === hand) this.prompt();
    this.focusSheet();
  }

  // A chain goes on from its last end, unless that end was there before: then it is closed or joined.
  _goOn(told, picks, before) {
    const made = this.entity(told.made[0]);
    const start = picks[0].snaps.find((snap) => snap.type === 'coincident')?.on[0];
    const end = made?.ends.find((point) => point !== start && (made.ends[0] === start || point === made.ends[1])) || made?.ends[1];
    if (!made || before.has(end)) { this.chain = false; if (this.hand !== 'line') this.use('line'); this.tell('the chain is joined; click to begin another'); return; }
    const [x, y] = this.scene.points[end];
    this.use('line');
    this.picks = [{ x, y, snaps: [{ type: 'coincident', on: [end] }] }];
    this.chain = true;
    this.prompt();
  }

  // In a chain: from line to tangent arc, to free arc, and back.
  turn() {
    if (!this.picks.length || !['line', 'tangent arc', 'arc by three points'].includes(this.hand)) return;
    const start = this.picks[0];
    const order = ['line', 'tangent arc', 'arc by three points'];
    const next = order[(order.indexOf(this.hand) + 1) % 3];
    this.use(next);
    this.picks = [start];
    this.chain = true;
    this.prompt();
    if (this.cursor) this._guess(this.cursor);
  }

  // Enter: typed coordinates, or the place under the pointer with the typed sizes.
  async accept() {
    const at = this.field('at');
    if (at) {
      const [x, y] = at.split(/[,;]\s*|\s+/).map(Number);
      if (!Number.isFinite(x) || !Number.isFinite(y)) { this.tell('type two numbers, such as 10, 5', { tone: 'fault' }); return; }
      const scale = UNITS[this.unit] || 1;
      const place = [x * scale, y * scale];
      const same = Object.entries(this.scene.points).find(([, p]) => Math.hypot(p[0] - place[0], p[1] - place[1]) < 1e-6);
      this.sk.fields.find((field) => field.name === 'at').value = '';
      await this.click({ x: place[0], y: place[1], snaps: same ? [{ type: 'coincident', on: [same[0]] }] : [] });
      return;
    }
    const tool = this.tools[this.hand];
    if (tool?.more && this.picks.length >= 2) { await this.finish(); return; }
    if (tool && this.guess && this.picks.length) await this.click(this.guess.pick);
  }

  // --- sizes ---------------------------------------------------------------------------------------------------

  kinds() {
    const types = this.names.map((id) => this.entity(id)?.type || 'point');
    const round = types.some((type) => type === 'arc' || type === 'circle');
    if (types.length === 1) return { line: ['aligned', 'across', 'up'], circle: ['diameter', 'radius'], arc: ['radius', 'diameter', 'arc length'] }[types[0]] || [];
    if (round) return ['centre', 'near', 'far'];
    return types.includes('line') && types.includes('point') ? ['length', 'axis'] : types.every((type) => type === 'point') ? ['aligned', 'across', 'up'] : [];
  }

  sizeAct(place, extra = {}) {
    const kind = this.kind === 'length' ? '' : this.kind;
    return { do: 'size', on: this.names, label: place, kind, ...extra };
  }

  async sizeClick(hit, place) {
    const id = hit && (hit.point || hit.curve);
    if (id && this.names.length < 2 && !this.names.includes(id)) {
      this.names = [...this.names, id];
      this.drawing.chosen = new Set(this.names);
      this.drawing.draw();
      this.chips();
      this.tell(this.names.length === 1 ? 'click a second thing, or an empty place for the label' : 'click where the label is to stand');
      return;
    }
    if (!this.names.length) { this.tell('click a point, a line or a round first'); return; }
    const act = this.sizeAct(place);
    await this._size(act);
  }

  async _size(act) {
    const told = await this.act(act);
    this.drawing.trial([]);
    if (told.refused) {
      this.names = []; // what is offered stays until something else is picked
      if (told.refused.drive) this.sk.offer = 'Keep it as a driven size';
      this.onOffer = () => this._size({ ...act, driven: true });
      return;
    }
    this.names = [];
    this.drawing.chosen.clear();
    this.kind = '';
    this.drawing.draw();
    this.chips();
    this.prompt();
    if (!act.driven) this.edit(told.made.at(-1));
  }

  // Type the value of a size where it stands.
  edit(id) {
    const size = this.scene.sizes.find((found) => found.id === id);
    if (!size || size.driven) return;
    this.editing = id;
    this.input.hidden = false;
    this.input.value = size.value;
    this.input.classList.remove('is-wrong');
    this._placeInput();
    this.input.focus();
    this.input.select();
    this.tell('type the value or an expression; Enter keeps it, Esc leaves it', { lead: 'Size:' });
  }

  _placeInput() {
    if (this.input.hidden) return;
    const size = this.scene.sizes.find((found) => found.id === this.editing);
    if (!size) { this.input.hidden = true; return; }
    const [x, y] = this.drawing.px(size.at);
    Object.assign(this.input.style, { left: `${x}px`, top: `${y}px` });
  }

  async keepSize() {
    const value = this.input.value.trim();
    const size = this.scene.sizes.find((found) => found.id === this.editing);
    if (!value || !size || value === size.value) { this.endEdit(); return; }
    const told = await this.act({ do: 'retype', constraint: this.editing, value });
    if (told.refused) { this.input.classList.add('is-wrong'); return; }
    this.endEdit();
    this.tell(`${size.title} is ${value}`);
  }

  endEdit() {
    this.input.hidden = true;
    this.editing = null;
    this.drawing.clashing = new Set();
    this.drawing.draw();
    this.list();
    this.prompt();
    this.focusSheet();
  }

  focusSheet() { this.svg.focus({ preventScroll: true }); }

  // --- tools that work on what is chosen -----------------------------------------------------------------------

  args() { return { names: this.chosenCurves(), points: [...this.drawing.chosen].filter((id) => this.scene.points[id]), field: (name) => this.field(name), options: this.options, sketcher: this }; }

  preview() {
    const make = HANDS[this.hand]?.build;
    if (!make) return;
    const acts = make(this.args());
    if (acts) this.tryOut(acts); else this.drawing.trial([]);
  }

  async build() {
    const acts = HANDS[this.hand].build(this.args());
    if (!acts) { this.tell(HANDS[this.hand].say, { tone: '' }); return; }
    const told = await this.act(...acts);
    this.drawing.trial([]);
    if (told.refused) return;
    this.drawing.chosen.clear();
    this.drawing.draw();
    this.list();
    this.chips();
    if (!told.words) this.tell('done; choose more, or Esc');
  }

  // All curves that hang together with one by shared ends.
  chainOf(id) {
    const found = new Set([id]);
    const waiting = [id];
    const kind = this.entity(id).construction;
    while (waiting.length) {
      const { ends } = this.entity(waiting.pop());
      for (const other of this.scene.entities) {
        if (found.has(other.id) || other.construction !== kind || !other.ends.some((point) => ends.includes(point))) continue;
        found.add(other.id);
        waiting.push(other.id);
      }
    }
    return [...found];
  }

  async figure(kind) {
    const job = this.queue.then(async () => {
      try {
        const told = await post(`/api/documents/${this.bench.id}/edits`, { base: this.bench.revision, edit: { op: 'add figure', step: this.step, figure: figuresOf(kind) } });
        this.bench.take(told);
        this.take((await call(this.path())).scene);
        this.fit();
      } catch (problem) { this.fail(problem); }
    });
    this.queue = job.catch(() => {});
    await job;
  }

  async bringPhoto(input) {
    const [file] = input.files;
    input.value = '';
    if (!file) return;
    if (file.size > 24 * 2 ** 20) { this.tell(`${file.name} is larger than 24 MB: save it smaller`, { tone: 'fault' }); return; }
    const form = new FormData();
    form.append('file', file);
    try {
      const { photo } = await send(this.path('/photos'), form);
      const width = 0.7 * Math.min(this.drawing.width, (this.drawing.height * photo.pixels[0]) / photo.pixels[1]) * this.drawing.unit;
      const done = await this.act({ do: 'add photo', photo: { ...photo, at: this.drawing.centre, width } });
      if (!done.refused) this.use('photo');
    } catch (problem) { this.fail(problem); }
  }

  get photo() { return this.scene.photos?.at(-1); }

  photoActs(field) {
    if (!this.photo) return null;
    const acts = [];
    const name = this.photo.id;
    if (field('distance') && this.spots?.length === 2) acts.push({ do: 'size photo', name, a: this.spots[0], b: this.spots[1], distance: field('distance') });
    const set = { ...(field('turn') ? { turn: field('turn') } : {}), ...(field('fade %') ? { fade: Math.min(1, Math.max(0.05, Number(field('fade %')) / 100 || 0.5)) } : {}) };
    if (Object.keys(set).length) acts.push({ do: 'set photo', name, ...set });
    return acts.length ? acts : null;
  }

  // Two places on the photo, for its size.
  spot(place) {
    this.spots = this.spots?.length === 1 ? [...this.spots, place] : [place];
    this.drawing.trial(this.spots.length === 2 ? [{ kind: 'line', a: this.spots[0], b: this.spots[1] }] : [], [], place);
    this.tell(this.spots.length === 2 ? 'type how far apart these two places are, then Enter' : 'click the second place');
    if (this.spots.length === 2) document.querySelector('.belt-field')?.focus();
  }

  // Outlines from a DXF or SVG file, put where they lie in it.
  async bringIn(input) {
    const [file] = input.files;
    input.value = '';
    if (!file) return;
    if (file.size > 16 * 2 ** 20) { this.tell(`${file.name} is larger than 16 MB: save only the outline that is needed`, { tone: 'fault' }); return; }
    this.tell(`reading ${file.name} …`);
    const form = new FormData();
    form.append('file', file);
    try {
      const job = await finished((await send(this.path('/outlines'), form)).job);
      if (job.state !== 'done') throw new Problem(job.message, job.hint, 422);
      const { curves, notes } = job.result;
      const done = await this.act({ do: 'bring in', curves });
      if (done.refused) return;
      this.fit();
      this.tell([`${curves.length} curve${curves.length === 1 ? '' : 's'} brought in`, ...notes, done.words].filter(Boolean).join('; '));
    } catch (problem) { this.fail(problem); }
  }

  // Take what lies under the pointer in the model behind the sheet.
  async take3d(event) {
    const how = HANDS[this.hand].takes;
    const found = this.bench.viewer.at(event.clientX, event.clientY, 'any');
    if (!found) { this.tell('no body lies there; click an edge or a face of one', { tone: 'fault' }); return; }
    try {
      const told = await post(this.path('/take'), { how, picked: found });
      const job = await finished(told.job);
      if (job.state !== 'done') throw new Problem(job.message, job.hint, 422);
      const done = await this.act({ do: 'take', curves: job.result.curves });
      if (!done.refused) this.tell(`${job.result.curves.length} curve${job.result.curves.length === 1 ? '' : 's'} taken, as construction; G makes them real`);
    } catch (problem) { this.fail(problem); }
  }

  closeGap(index) {
    const gap = this.scene.gaps[index];
    if (gap?.other) this.act({ do: 'close gap', a: gap.at, b: gap.other });
  }

  doneAreas() {
    const { step, field, sketch } = this.areas;
    const keys = [...this.drawing.chosen];
    const all = this.scene.regions.filter((region) => region.filled).map((region) => region.key);
    const same = keys.length === all.length && all.every((key) => keys.includes(key));
    if (!keys.length) { this.tell('pick at least one area', { tone: 'fault' }); return; }
    this.close();
    this.bench.edit({ op: 'set', step, field, value: { sketch, regions: same ? 'all' : keys } });
  }

  // --- pointer -------------------------------------------------------------------------------------------------

  _listen() {
    const { svg } = this;
    svg.addEventListener('pointerdown', (event) => this._down(event));
    svg.addEventListener('pointermove', (event) => this._move(event));
    svg.addEventListener('pointerup', (event) => this._up(event));
    svg.addEventListener('pointercancel', (event) => { this._fingers(event); this.held = null; this.drawing.frame(null); });
    svg.addEventListener('contextmenu', (event) => event.preventDefault());
    svg.addEventListener('dblclick', (event) => {
      const hit = this.drawing.at(event.offsetX, event.offsetY);
      if (this.tools[this.hand]?.more && this.picks.length >= 3) { this.picks = this.picks.slice(0, -1); this.finish(); } else if (hit?.size) this.edit(hit.size);
      else if (hit?.curve && this.hand === 'choose') this._onSpline(hit.curve, event) || (this.drawing.chosen = new Set(this.chainOf(hit.curve)), this.drawing.draw(), this.list(), this.chips());
    });
    svg.addEventListener('wheel', (event) => {
      event.preventDefault();
      this.drawing.zoom(Math.exp(Math.max(-0.4, Math.min(0.4, event.deltaY * 0.0016))), event.offsetX, event.offsetY);
      this.redraw();
    }, { passive: false });
    this.input.addEventListener('keydown', (event) => {
      event.stopPropagation();
      if (event.key === 'Enter') this.keepSize();
      if (event.key === 'Escape') this.endEdit();
    });
    document.getElementById('bring-photo').addEventListener('change', (event) => this.bringPhoto(event.target));
    document.getElementById('bring-in').addEventListener('change', (event) => this.bringIn(event.target));
    new ResizeObserver(() => { this.drawing.measure(); if (this.opened) this.redraw(); }).observe(svg);
    const over = (event) => {
      const row = event.target.closest?.('[data-ids]');
      const ids = row ? row.dataset.ids.split(' ') : [];
      const on = ids.flatMap((id) => [id, ...(this.scene?.constraints.find((c) => c.ids.includes(id))?.on || []), ...(this.scene?.sizes.find((s) => s.id === id)?.on || [])]);
      if (on.join() === this.lit) return;
      this.lit = on.join();
      this.drawing.lit = new Set(on);
      this.drawing.draw();
    };
    this.panel.addEventListener('pointerover', over);
    this.panel.addEventListener('focusin', over);
    this.panel.addEventListener('pointerleave', over);
  }

  // A double click on a spline puts a point there.
  _onSpline(id, event) {
    if (this.entity(id).type !== 'spline') return false;
    this.act({ do: 'insert point', entity: id, at: this.drawing.mm(event.offsetX, event.offsetY) });
    return true;
  }

  // Two fingers move the sheet and change its scale.
  _fingers(event) {
    if (event.pointerType !== 'touch') return false;
    this.touches ||= new Map();
    if (['pointerup', 'pointercancel'].includes(event.type)) { this.touches.delete(event.pointerId); return false; }
    const before = [...this.touches.values()];
    this.touches.set(event.pointerId, [event.offsetX, event.offsetY]);
    const after = [...this.touches.values()];
    if (after.length < 2) return false;
    this.held = null;
    if (before.length === 2 && event.type === 'pointermove') {
      const middle = ([p, q]) => [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2];
      const apart = ([p, q]) => Math.hypot(p[0] - q[0], p[1] - q[1]) || 1;
      const [from, to] = [middle(before), middle(after)];
      this.drawing.centre = [this.drawing.centre[0] - (to[0] - from[0]) * this.drawing.unit, this.drawing.centre[1] + (to[1] - from[1]) * this.drawing.unit];
      this.drawing.zoom(apart(before) / apart(after), ...to);
      this.redraw();
    }
    return true;
  }

  // A word beside the pointer: what it is taken for, and the sizes as they lie.
  _tag(text, px = 0, py = 0) {
    this.tag.hidden = !text;
    this.tag.textContent = text;
    if (text) Object.assign(this.tag.style, { left: `${Math.min(px + 16, this.drawing.width - 160)}px`, top: `${Math.min(py + 18, this.drawing.height - 40)}px` });
  }

  // What a click may mean with what is in hand: a mark, for one, lies over what it marks and is meant only when choosing.
  _wanted(event) {
    const onlyCurves = ['trim', 'extend', 'cut', 'offset', 'mirror'].includes(this.hand);
    return { regions: Boolean(this.areas), marks: this.hand === 'choose' && !event.shiftKey, points: !onlyCurves, sizes: !onlyCurves };
  }

  _down(event) {
    this.svg.setPointerCapture(event.pointerId);
    if (this._fingers(event)) return;
    const at = [event.offsetX, event.offsetY];
    const pan = event.button === 1 || event.button === 2 || (event.button === 0 && event.shiftKey && this.tools[this.hand]);
    const hit = pan ? null : this.drawing.at(...at, this._wanted(event));
    this.held = { at, last: at, pan, hit, moved: false, more: event.shiftKey || event.ctrlKey || event.metaKey };
    if (this.hand === 'trim' && !pan && event.button === 0) this.held.stroke = [at];
  }

  _move(event) {
    if (this._fingers(event)) return;
    const at = [event.offsetX, event.offsetY];
    this.pointer = at;
    const { held } = this;
    if (held) {
      if (!held.moved && Math.hypot(at[0] - held.at[0], at[1] - held.at[1]) < 4) return;
      held.moved = true;
      if (held.pan) {
        this.drawing.centre = [this.drawing.centre[0] - (at[0] - held.last[0]) * this.drawing.unit, this.drawing.centre[1] + (at[1] - held.last[1]) * this.drawing.unit];
        held.last = at;
        this.redraw();
      } else if (held.stroke) {
        held.stroke.push(at);
        this.drawing.stroke(held.stroke);
      } else if (this.hand === 'photo') {
        const photo = this.photo;
        if (!photo || photo.locked || this.drawing.photoAt(...held.at)?.id !== photo.id) return;
        const [from, to] = [this.drawing.mm(...held.at), this.drawing.mm(...at)];
        this.drawing.shifted = { id: photo.id, at: [photo.at[0] + to[0] - from[0], photo.at[1] + to[1] - from[1]] };
        this.drawing.draw();
      } else if (this.hand === 'choose' && !this.areas) this._pull(event, at);
      else if (this.tools[this.hand]) this.aim(event);
      return;
    }
    if (this.tools[this.hand]) { this.aim(event); this._hover(null); return; }
    this._hover(this.drawing.at(...at, this._wanted(event)));
    const place = this.drawing.mm(...at);
    const scale = UNITS[this.unit] || 1;
    this.sk.place = `x ${(place[0] / scale).toFixed(2)}  y ${(place[1] / scale).toFixed(2)} ${this.unit}`;
    if (this.hand === 'size' && this.names.length) this.tryOut([this.sizeAct(place)]);
    if (this.hand === 'trim') this._trimHover(place);
  }

  _hover(hit) {
    const id = hit?.id || null;
    if (id === this.drawing.hover) return;
    this.drawing.hover = id;
    this.drawing.draw();
    const size = id && this.scene.sizes.find((found) => found.id === id);
    const held = id && this.scene.constraints.find((row) => row.ids.includes(id));
    this._tag(size ? size.title : held ? held.words : (id && this.scene.names[id]) || '', this.pointer?.[0], this.pointer?.[1]);
  }

  async _trimHover(place) {
    const curve = this.drawing.hover && this.entity(this.drawing.hover);
    if (!curve) { this.drawing.trial([]); return; }
    if (this.looking) return;
    this.looking = true;
    try {
      const told = await post(this.path('/trims'), { entity: curve.id, at: place });
      if (this.hand === 'trim') this.drawing.trial([told.piece], [], null, 'is-gone');
    } catch (problem) { if (!(problem instanceof Problem)) throw problem; } finally { this.looking = false; }
  }

  // Drag a point or a curve, a label, or a box on empty ground.
  _pull(event, at) {
    const { held } = this;
    const id = held.hit && (held.hit.point || held.hit.curve);
    if (held.hit?.size) {
      const size = this.scene.sizes.find((found) => found.id === held.hit.size);
      const place = this.drawing.mm(...at);
      held.label = place;
      const shift = [place[0] - size.at[0], place[1] - size.at[1]];
      const node = this.svg.querySelector(`[data-size="${CSS.escape(size.id)}"]`);
      if (node) node.setAttribute('transform', `translate(${shift[0] / this.drawing.unit} ${-shift[1] / this.drawing.unit})`);
    } else if (id && id !== 'o') this.drag(id, held, this.drawing.mm(...at));
    else { held.box = at; this.drawing.frame(held.at, at); }
  }

  async drag(id, held, to) {
    held.to = to;
    if (held.asking || held.refused) return;
    held.asking = true;
    try {
      while (held.to) {
        const target = held.to;
        held.to = null;
        const told = await post(this.path('/drag'), { name: id, from: this.drawing.mm(...held.at), to: target, begin: !held.dragging });
        held.dragging = true;
        held.radii = told.radii;
        this.drawing.show(told.scene);
      }
    } catch (problem) { held.refused = true; this.fail(problem); } finally { held.asking = false; if (held.ended) this._drop(held); }
  }

  _drop(held) {
    if (!held.dragging) return;
    const points = Object.fromEntries(Object.entries(this.scene.points).filter(([id]) => id !== 'o'));
    const radii = Object.fromEntries(Object.entries(held.radii || {}).filter(([id]) => ['circle', 'ellipse'].includes(this.entity(id)?.type)));
    this.act({ do: 'dropped', points, radii }).then((told) => { if (told.refused) this.reload(); });
  }

  // Show again what is kept.
  async reload() {
    try { this.take((await call(this.path())).scene); } catch (problem) { this.fail(problem); }
  }

  _up(event) {
    this._fingers(event);
    const { held } = this;
    this.held = null;
    if (!held) return;
    const place = this.drawing.mm(event.offsetX, event.offsetY);
    if (held.moved) {
      if (held.stroke) { this._trimAlong(held.stroke); return; }
      const { shifted } = this.drawing;
      this.drawing.shifted = null;
      if (shifted) this.act({ do: 'set photo', name: shifted.id, at: shifted.at });
      else if (held.label) this.act({ do: 'label', constraint: held.hit.size, at: held.label });
      else if (held.box) this._chooseIn(held);
      else if (held.dragging || held.asking) { held.ended = true; if (!held.asking) this._drop(held); }
      if (!this.tools[this.hand] || held.pan) return;
    }
    if (held.pan || event.button !== 0) return;
    this._click(held, place, event);
  }

  async _click(held, place, event) {
    const { hit } = held;
    if (this.areas) { if (hit?.region) { this.choose(hit.region, true); } return; }
    if (this.tools[this.hand]) {
      this.aimed = null;
      await this._guess(place, event.altKey);
      if (this.guess) await this.click(this.guess.pick);
      return;
    }
    if (this.hand === 'size') { await this.sizeClick(hit, place); return; }
    const curve = hit?.curve;
    const single = HANDS[this.hand].single;
    if (this.hand === 'trim') { if (curve) this.act({ do: 'trim', cuts: [[curve, place]] }).then(() => this.drawing.trial([])); return; }
    if (single) {
      const acts = single({ curve, point: hit?.point, place, field: (name) => this.field(name), options: this.options, sketcher: this });
      if (acts) await this.act(...acts); else this.tell(HANDS[this.hand].say);
      return;
    }
    if (this.hand === 'photo') { this.spot(place); return; }
    if (HANDS[this.hand].takes) { this.take3d(event); return; }
    if (this.hand === 'offset' && curve && !held.more) { this.drawing.chosen = new Set(this.chainOf(curve)); this.drawing.draw(); this.list(); this.preview(); return; }
    if (!hit) { this.drawing.chosen.clear(); this.drawing.draw(); this.list(); this.chips(); this.preview(); return; }
    if (hit.size && this.drawing.chosen.has(hit.size)) { this.edit(hit.size); return; }
    this.choose(hit.id, held.more || this.hand !== 'choose');
  }

  _chooseIn({ at, box, more }) {
    this.drawing.frame(null);
    const [low, high] = [[Math.min(at[0], box[0]), Math.min(at[1], box[1])], [Math.max(at[0], box[0]), Math.max(at[1], box[1])]];
    const inside = ([x, y]) => x >= low[0] && x <= high[0] && y >= low[1] && y <= high[1];
    if (!more) this.drawing.chosen.clear();
    for (const node of this.svg.querySelectorAll('[data-curve]')) {
      const b = node.getBBox();
      if (inside([b.x, b.y]) && inside([b.x + b.width, b.y + b.height])) this.drawing.chosen.add(node.dataset.curve);
    }
    for (const id of this.scene.spare) if (inside(this.drawing.px(this.scene.points[id]))) this.drawing.chosen.add(id);
    this.drawing.draw();
    this.list();
    this.chips();
  }

  // Trim every curve that the pointer was dragged across, where it crossed it.
  _trimAlong(stroke) {
    this.drawing.stroke(null);
    const cuts = [];
    for (let i = 1; i < stroke.length; i += 1) {
      const [[ax, ay], [bx, by]] = [stroke[i - 1], stroke[i]];
      const steps = Math.max(1, Math.ceil(Math.hypot(bx - ax, by - ay) / 3));
      for (let k = 1; k <= steps; k += 1) {
        const at = [ax + ((bx - ax) * k) / steps, ay + ((by - ay) * k) / steps];
        const curve = this.drawing._nearCurve(...at, 2.2);
        const last = cuts.at(-1);
        if (curve && !(last && last[0] === curve && Math.hypot(last[2][0] - at[0], last[2][1] - at[1]) < 14)) cuts.push([curve, this.drawing.mm(...at), at]);
      }
    }
    if (cuts.length) this.act({ do: 'trim', cuts: cuts.map(([curve, place]) => [curve, place]) });
  }

  // --- keys ----------------------------------------------------------------------------------------------------

  back() {
    this.sk.offer = '';
    if (this.tools[this.hand] && this.picks.length) { this.picks = this.chain ? [] : this.picks.slice(0, -1); this.chain = false; this.drawing.trial([]); this.prompt(); return; }
    if (this.hand === 'size' && this.names.length) { this.names = []; this.drawing.chosen.clear(); this.drawing.trial([]); this.drawing.draw(); this.chips(); this.prompt(); return; }
    if (this.hand !== 'choose') { this.drawing.chosen.clear(); this.drawing.draw(); this.list(); this.use('choose'); return; }
    if (this.areas) { this.close(); return; }
    if (this.drawing.chosen.size || this.drawing.clashing.size) { this.drawing.chosen.clear(); this.drawing.clashing = new Set(); this.drawing.draw(); this.list(); this.chips(); this.prompt(); return; }
    this.tell('nothing is chosen; Enter or Finish closes the sheet');
  }

  // True if the key was for the sheet.
  key(event) {
    const typing = event.target.offsetParent && event.target.closest?.('input, select, textarea');
    if (event.key === 'Escape') {
      if (typing) { typing.blur(); this.focusSheet(); }
      this.back();
      return true;
    }
    if (typing) {
      if (event.key === 'Enter' && typing.matches('.belt-field')) { if (this.tools[this.hand]) this.accept(); else this.build(); return true; }
      return false;
    }
    if (event.key === 'Enter') { if (event.target.closest?.('button, a')) return false; if (this.areas) this.doneAreas(); else if (this.tools[this.hand]) this.accept(); else if (HANDS[this.hand].build) this.build(); else if (this.hand === 'choose' && !this.drawing.chosen.size) this.close(); return true; }
    if (event.key === 'Delete' || event.key === 'Backspace') { this.erase(); return true; }
    const digit = /^Digit(\d)$/.exec(event.code)?.[1] ?? (/^\d$/.test(event.key) ? event.key : null);
    const first = this.sk.fields[0];
    // While a tool has been given its first click, digits are numbers being typed; before that they are slots.
    if (digit !== null && first && !event.shiftKey && (this.picks.length || HANDS[this.hand]?.build)) { this._type(event.key); return true; }
    if (/^[-.(]$/.test(event.key) && first && this.picks.length) { this._type(event.key); return true; }
    if (digit !== null && !this.areas) {
      const slot = BELT.find((entry) => entry.key === digit && entry.row === (event.shiftKey ? 2 : 1));
      if (slot) this.slot(slot.id);
      return true;
    }
    const letter = event.key.length === 1 ? event.key.toLowerCase() : '';
    const constraint = this.drawing.chosen.size && this.possible().find(([, entry]) => entry.key === letter);
    if (constraint) { this.hold(constraint[0]); return true; }
    const act = { a: () => this.turn(), g: () => this.toggleConstruction(), f: () => this.fit(), w: () => this.fit(), c: () => this.toggleCut(), d: () => { this.waysOn = !this.drawing.showWays; this.drawing.showWays = this.waysOn; this.drawing.draw(); }, '?': () => this.tell(KEYS) }[letter];
    if (act) act();
    return Boolean(act) || '[]/vsh'.includes(letter || 'none');
  }

  _type(text) {
    const field = this.box.closest('main').parentElement.querySelector('.belt-field');
    if (!field) return;
    field.focus();
    field.value = text;
    field.dispatchEvent(new Event('input', { bubbles: true }));
  }

  typed() {
    if (this.tools[this.hand]) { if (this.cursor) this._guess(this.cursor); } else this.preview();
  }
}
