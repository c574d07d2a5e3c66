// The workbench: one document, its view and its sheet. Holds what the page shows; the rules live on the server.

import Alpine from 'alpine';
import { Viewer } from './viewer.js';
import { Problem, call, finished, post, send } from './api.js';
import { listenToSheet, swapSheet } from './sheet.js';
import { Sketcher } from './sketcher.js';
import { bodyRows, contactRows, crossAt, mend } from './bodies.js';
import { Gauging, marked } from './gauging.js';
import { askUnit, takeUnit } from './units.js';
import { Judging } from './judging.js';
import { Cutting } from './cutting.js';
import { STROKE, play } from './opening.js';

const MODES = ['shaded', 'hidden edges', 'see-through', 'lines'];
const number = (value, digits) => Number(value).toFixed(digits).replace(/(\.\d*?)0+$/, '$1').replace(/\.$/, '');
const UNITS = { mm: 1, cm: 10, m: 1000, in: 25.4 };
const KEYS = '/ add a step · [ ] move the standing marker · Ctrl+Z undo · Ctrl+Shift+Z redo · V drawing style · S section · M measure · N P next and last place of an open gauge · F fit · H hide what is picked · Esc one level back';

Alpine.data('bench', () => ({
  lead: 'Ready:', say: 'click a number to change it, or / to add a step; ? shows the keys', tone: '', offer: '', onOffer: null,
  busy: false, loaded: false, progress: '', bodies: [], size: '', rebuilt: '', undoCount: 0, canRedo: false, stepCount: '',
  mode: 'shaded', cut: { on: false, axis: 'y', at: 0, low: -50, high: 50, turn: 0, tilt: 0, name: '', kept: [], wall: '' }, stroke: 0, canOpen: false,
  adding: false, addText: '', figureFor: '', picking: false, extras: [], pickLead: '', pickWords: '', pickCount: 0, rules: [], joint: 'instead', shown: '', lookOpen: '', contacts: [], measuring: false, measures: [], suitWords: '',
  strip: [], judged: { old: false, why: '' }, gaugeOpen: '', gaugePanel: null, offender: { words: '', place: '' }, pullWay: '', figureOpen: '', gating: false,
  unitAsk: { on: false, unit: '', size: '', numbers: '', sizeWarning: '', numbersWarning: '' },

  sk: { on: false, areas: false, step: '', name: '', freedoms: 0, freedomWords: '', share: 0, regionWords: '', area: '', areaUnit: '', about: '', empty: false, gaps: [], sizes: [], rows: [], curves: [], belt: [], more: false, fields: [], chips: [], lead: '', say: '', tone: '', offer: '', place: '', plain: true, cut: false, construct: false, showCurves: false },

  get hasRule() { return this.picking && this.pickCount > 0 && this.pick.picks.some((pick) => pick.rule); },
  get modeWords() { return this.mode === 'shaded' ? 'Shaded' : `Shaded, ${this.mode}`.replace('Shaded, see', 'See').replace('Shaded, lines', 'Lines'); },
  get strokeWords() { return `${this.stroke} of ${STROKE} mm`; },

  init() {
    const data = this.$el.dataset;
    this.id = data.document;
    this.kind = data.kind;
    this.unit = data.unit;
    this.revision = Number(data.revision);
    this.undoCount = Number(data.undo);
    this.canRedo = data.redo === 'yes';
    this.standing = data.at || null;
    this.serial = 0;
    this.chosen = [];
    this.aside = new Set(); // bodies hidden on this page alone
    this.chain = Promise.resolve();
    this.viewer = new Viewer(document.getElementById('view'), {
      onPick: (found, event) => this.picked(found, event),
    });
    this.viewer.wants = 'any';
    this.sheet = document.getElementById('sheet');
    this.countSteps();
    window.bench = this;
    listenToSheet(this.sheet, this);
    this.listen();
    this.sketcher = new Sketcher(this);
    this.gauging = new Gauging(this);
    this.pullWay = data.pull;
    this.judging = new Judging(this);
    this.cut.kept = JSON.parse(data.cuts || '[]');
    this.cutting = new Cutting(this);
    const sketch = new URLSearchParams(location.search).get('sketch');
    if (sketch && this.sheet.querySelector(`[data-line="${CSS.escape(sketch)}"] [data-draw]`)) this.sketcher.open(sketch);
    else this.rebuild();
  },

  // --- the drawing sheet ---------------------------------------------------------------------------------------

  get frameRows() { return this.sk.on ? 'grid-rows-[64px_minmax(0,1fr)_92px]' : 'grid-rows-[64px_minmax(0,1fr)_40px]'; },
  get skSay() { return this.sk.tone === 'fault' ? 'text-[#FFB9AC]' : ''; },
  get skBelt() { return this.sk.belt.filter((slot) => slot.row === (this.sk.more ? 2 : 1)); },
  get skFigures() { return this.sk.on && !this.sk.areas && this.sketcher.hand === 'figure'; },
  draw(step) { this.stopPickingQuietly(); return this.sketcher.open(step); },
  stopPickingQuietly() { if (this.picking) this.stopPicking(); },
  get skFile() { return this.sk.step ? `/api/documents/${this.id}/sketches/${this.sk.step}/file?format=dxf` : ''; },
  get skFileSvg() { return this.skFile.replace('=dxf', '=svg'); },
  skClose() { return this.sketcher.close(); },
  skSlot(id) { this.sketcher.slot(id); },
  skMore() { this.sk.more = !this.sk.more; },
  skChip(id) { this.sketcher.chip(id); },
  skOffer() { this.sketcher.takeOffer(); },
  skTyped() { this.sketcher.typed(); },
  skFigure(kind) { return this.sketcher.figure(kind); },
  skEdit(id) { this.sketcher.edit(id); },
  skDrive(id, driven) { this.sketcher.act({ do: 'drive', constraint: id, driven: !driven }); },
  skDrop(ids) { this.sketcher.act({ do: 'erase', names: ids.split(' ') }); },
  skChoose(id) { this.sketcher.choose(id, true); },
  skGap(index) { this.sketcher.closeGap(index); },
  skDone() { this.sketcher.doneAreas(); },
  skCut() { this.sketcher.toggleCut(); },
  skFit() { this.sketcher.fit(); },
  skCurves() { this.sk.showCurves = !this.sk.showCurves; },

  // --- building ------------------------------------------------------------------------------------------------

  path(rest) { return `/api/documents/${this.id}/${rest}`; },

  tell(lead, say, tone = '', offer = '', onOffer = null) { Object.assign(this, { lead, say, tone, offer, onOffer }); },

  takeOffer() { const act = this.onOffer; this.offer = ''; if (act) act(); },

  fail(problem) {
    if (!(problem instanceof Problem)) throw problem;
    const reload = problem.status === 409 || problem.status === 403;
    this.tell('Not done:', [problem.message, problem.hint].filter(Boolean).join(' '), 'fault', reload ? 'Reload' : '', () => location.reload());
  },

  async rebuild(extra = {}, again = 0) {
    try {
      const told = await post(this.path('build'), { upto: this.standing, ...extra });
      return await this.follow(told.job, { sheet: !extra.before, again });
    } catch (problem) { this.fail(problem); return null; }
  },

  // Keep an edit. Edits wait for each other, since each names the revision it was made from.
  edit(edit) {
    this.shown = '';
    this.chain = this.chain.then(async () => {
      try {
        const told = await post(this.path('edits'), { base: this.revision, edit, upto: this.standing });
        this.take(told);
        this.follow(told.job, { sheet: true, change: told.change });
      } catch (problem) {
        this.fail(problem);
        if (edit.op === 'set') this.markWrong(edit.step, edit.field);
      }
    });
    return this.chain;
  },

  take(told) {
    this.revision = told.revision;
    this.undoCount = told.undo;
    this.canRedo = told.redo;
  },

  async preview(edit) {
    const serial = (this.serial += 1);
    try {
      const told = await post(this.path('preview'), { edit, upto: this.standing });
      if (serial === this.serial) await this.follow(told.job, { preview: edit });
    } catch (problem) { this.fail(problem); }
  },

  // Show what an edit would make of everything, and what it would break, before it is kept or thrown away.
  async tryOut(edit) {
    this.tell('Trying:', 'building with the newer part …');
    await this.preview(edit);
    if (this.busy || !this.result) return;
    this.tried = true;
    const labels = new Map([...this.sheet.querySelectorAll('.step')].map((line) => [line.dataset.line, line.querySelector('.step-number').textContent]));
    const wrong = this.result.steps.filter((step) => step.status === 'failed' || step.flags?.some((flag) => !['ordered', 'caution'].includes(flag.status)));
    const told = wrong.map((step) => `step ${labels.get(step.id)}: ${step.words || step.flags.map((flag) => flag.words).join(' ')}`).join(' ');
    this.tell('Tried:', told || 'every step builds with the newer part, and every pick is found again; Esc leaves it', wrong.length ? 'fault' : '', 'Keep it', () => { this.tried = false; this.edit(edit); });
  },

  async follow(jobId, { sheet = false, preview = null, change = '', again = 0 } = {}) {
    const serial = (this.serial += 1);
    const stale = () => serial !== this.serial;
    const began = performance.now();
    this.job = jobId;
    const job = await finished(jobId, (running) => {
      if (stale() || performance.now() - began < 700) return;
      this.busy = true;
      const { at } = running;
      this.progress = !at ? 'Getting ready …' : at.number ? `Step ${at.number} of ${at.of}: ${at.label}` : at.label;
    }, stale);
    if (stale()) return null;
    this.busy = false;
    if (job.state !== 'done') {
      this.tell('Stopped:', [job.message, job.hint].filter(Boolean).join(' '), 'fault', 'Try again', () => this.rebuild());
      if (sheet) await this.refreshSheet();
      // The step that was too much is known now: built once more without it, the rest can be shown. There may be several.
      if (['too long', 'died'].includes(job.state) && job.at && !preview && again < 5) await this.rebuild({}, again + 1);
      return null;
    }
    const { result } = job;
    this.result = result;
    this.loaded = true;
    this.arrange(result.bodies);
    this.viewer.hidden = new Set([...this.aside, ...result.bodies.filter((body) => body.look.hidden).map((body) => body.id)]);
    await this.viewer.show(result.bodies.filter((body) => body.mesh), this.drawn(result));
    if (stale()) return null;
    this.forgetStale();
    this.rebuilt = `rebuilt ${number(result.ms / 1000, 2)} s`;
    this.showFigures(result);
    const bad = result.steps.find((step) => step.status === 'failed');
    if (bad) {
      const place = result.steps.indexOf(bad) + 1;
      this.tell(`Step ${place}${bad.field ? `, ${bad.field.split('.').pop().replace('_', ' ')}` : ''}:`, bad.message, 'fault');
      if (preview) this.markWrong(bad.id, bad.field);
      if (bad.sized) this.advise(bad, preview, stale);
    } else if (preview) {
      this.markWrong(null);
      this.tell(this.lead, 'Enter keeps it, Esc leaves it as it was');
    } else if (change) this.tell('Done:', change);
    if (this.cut.on) this.cutting.outline().catch((problem) => this.fail(problem));
    if (sheet) this.judging.ask();
    if (sheet) await this.refreshSheet(jobId);
    if (sheet && bad) this.sheet.querySelector(`[data-line="${CSS.escape(bad.id)}"]`)?.scrollIntoView({ block: 'nearest' });
    document.documentElement.dataset.ready = String(serial);
    return result;
  },

  // What would fit is looked for beside the work that goes on; it is said when it comes, unless something newer is shown.
  async advise(bad, preview, stale) {
    try {
      const told = await post(this.path('advice'), { step: bad.id, edit: preview });
      const job = await finished(told.job, () => {}, stale);
      const advice = !stale() && job.state === 'done' ? job.result.advice : null;
      if (!advice) return;
      if (advice.value) this.tell(this.lead, `${bad.words} ${advice.words}`, 'fault', `Use ${advice.value}`, () => this.edit({ op: 'set', step: advice.step, field: advice.field, value: advice.value }));
      const line = this.sheet.querySelector(`[data-advice="${CSS.escape(advice.step)}"]`);
      if (!line || preview) return;
      line.hidden = false;
      line.textContent = `${advice.words} `;
      if (!advice.value) return;
      const use = Object.assign(document.createElement('button'), { type: 'button', className: 'textlink', textContent: `Use ${advice.value}` });
      Object.assign(use.dataset, { use: advice.step, field: advice.field, fits: advice.value });
      line.append(use);
    } catch (problem) { this.fail(problem); }
  },

  // Every gap of the sheet says whether the step may stand there, and if not, why.
  async offerPlaces(step) {
    this.tell('Move:', 'trying where this step may stand …');
    try {
      const told = await post(this.path('places'), { step });
      const job = await finished(told.job);
      if (job.state !== 'done') { this.tell('Not done:', job.message || 'the sheet has changed meanwhile', 'fault'); return; }
      for (const old of this.sheet.querySelectorAll('.place')) old.remove();
      for (const { after, why } of job.result.places) {
        const row = document.createElement('div');
        row.className = 'place';
        if (why) row.textContent = `not here: ${why}`;
        else {
          const here = Object.assign(document.createElement('button'), { type: 'button', className: 'textlink', textContent: 'move it here' });
          Object.assign(here.dataset, { place: after || '', step });
          row.append(here);
        }
        const line = after && this.sheet.querySelector(`[data-line="${CSS.escape(after)}"]`);
        if (line) line.after(row); else this.sheet.prepend(row);
      }
      this.sheet.querySelector('.place button')?.focus();
      this.tell('Move:', 'choose a place in the sheet; Esc leaves the step where it is');
    } catch (problem) { this.fail(problem); }
  },

  // Light faces or edges in the model as it stood before a step; Esc goes back.
  async showPicks(step, picks) {
    const result = await this.rebuild({ upto: null, before: step, picks });
    if (!result) return;
    this.shown = step;
    this.viewer.light(result.picks);
    this.tell('Shown:', 'the model as it stood before this step; Esc goes back', '', 'Back', () => this.back());
  },

  // A finished tool is first shown open, and the trial shot stands for the part and the feed that it is made of.
  arrange(bodies) {
    if (this.arranged) return;
    const roles = new Set(bodies.map((body) => body.role));
    if (!roles.has('core')) return;
    this.arranged = true;
    this.stroke = 74;
    this.viewer.stroke = 74;
    if (roles.has('shot')) for (const body of bodies) if (['linked', 'molded', 'feed'].includes(body.role)) this.aside.add(body.id);
  },

  async refreshSheet(jobId = '') {
    const html = await call(`/documents/${this.id}/sheet?job=${jobId}&at=${this.standing || ''}`);
    swapSheet(this.sheet, html);
    this.countSteps();
  },

  countSteps() {
    const count = this.sheet.querySelectorAll('.step').length;
    this.stepCount = `${count} step${count === 1 ? '' : 's'}`;
  },

  // Outlines, datums, and the lines that belong to steps: of measured notes always, of others while they are open.
  drawn(result) {
    const open = this.sheet.querySelector('.step.is-open')?.dataset.line;
    const inPlace = !result.bodies.some((body) => body.role === 'molded'); // copies at other places have left the line behind
    const shown = result.steps.filter((step) => result.lines[step.id] && (step.type === 'measure' || (step.type === 'parting line' && inPlace) || step.id === open));
    return [...result.sketches, ...result.datums, ...shown.map((step) => ({ kind: 'note', lines: result.lines[step.id] }))];
  },
  redraw() { if (this.result) this.viewer.redraw(this.drawn(this.result)); },

  cancel() { if (this.job) call(`/api/jobs/${this.job}`, { method: 'DELETE' }).catch((p) => this.fail(p)); },

  showFigures(result) {
    const bodies = result.bodies;
    this.listBodies();
    this.contacts = contactRows(result.contacts, number);
    this.canOpen = bodies.some((body) => body.role === 'core');
    const scale = UNITS[this.unit];
    const spans = (list) => [0, 1, 2].map((i) => (Math.max(...list.map((b) => b.high[i])) - Math.min(...list.map((b) => b.low[i]))) / scale);
    this.size = bodies.length ? `${spans(bodies).map((s) => s.toFixed(2)).join(' × ')} ${this.unit}` : '';
  },

  markWrong(step, field) {
    for (const marked of this.sheet.querySelectorAll('.is-wrong')) marked.classList.remove('is-wrong');
    if (!step) return;
    for (const control of this.sheet.querySelectorAll(`[data-step="${CSS.escape(step)}"]`)) {
      if (control.dataset.field === field) control.classList.add('is-wrong');
    }
  },

  // --- history and standing marker -----------------------------------------------------------------------------

  async travel(way) {
    try {
      await this.chain;
      const told = await post(this.path(way), { upto: this.standing });
      this.take(told);
      this.tell(way === 'undo' ? 'Undone.' : 'Done again:', way === 'undo' ? 'Ctrl+Shift+Z does it again' : told.change);
      await this.follow(told.job, { sheet: true });
    } catch (problem) { this.fail(problem); }
  },
  undo() { return this.sk.on ? this.sketcher.travel('undo') : this.travel('undo'); },
  redo() { return this.sk.on ? this.sketcher.travel('redo') : this.travel('redo'); },

  stand(step) {
    const ids = [...this.sheet.querySelectorAll('.step')].map((line) => line.dataset.line);
    this.standing = step && ids.indexOf(step) < ids.length - 1 ? step : null;
    const url = new URL(location.href);
    if (this.standing) url.searchParams.set('at', this.standing);
    else url.searchParams.delete('at');
    history.replaceState(null, '', url);
    this.sheet.querySelector(`[data-line="${CSS.escape(this.standing || ids.at(-1))}"]`)?.scrollIntoView({ block: 'nearest' });
    this.tell('Standing:', this.standing ? `after step ${ids.indexOf(this.standing) + 1}; ] goes on` : 'at the end of the sheet');
    return this.rebuild();
  },

  moveMarker(by) {
    const ids = [...this.sheet.querySelectorAll('.step')].map((line) => line.dataset.line);
    if (!ids.length) return;
    const now = this.standing ? ids.indexOf(this.standing) : ids.length - 1;
    this.stand(ids[Math.max(0, Math.min(ids.length - 1, now + by))]);
  },

  // --- adding steps --------------------------------------------------------------------------------------------

  // Steps that can start from what is picked come first.
  openAdd() {
    this.adding = true;
    this.figureFor = '';
    const kinds = new Set(this.chosen.map((item) => (item.face === undefined ? 'edges' : 'faces')));
    const fits = (option) => kinds.size && [...kinds].every((kind) => option.dataset.suits.split(' ').includes(kind));
    for (const option of this.options()) option.dataset.fits = fits(option) ? 'yes' : '';
    this.suitWords = kinds.size ? `For the picked ${[...kinds].join(' and ')} first` : '';
    this.filterAdd();
  },

  options() { return [...document.querySelectorAll('[data-add]')]; },

  filterAdd() {
    this.adding = true;
    const wanted = this.addText.trim().toLowerCase();
    const options = this.options();
    options.forEach((option, index) => {
      option.dataset.rank ||= String(index);
      option.hidden = !option.dataset.words.includes(wanted);
    });
    // What begins with the typed word comes before what only speaks of it, and what suits the picks before the rest.
    const rank = (option) => (option.dataset.words.startsWith(wanted) ? 0 : 2000) + (option.dataset.fits ? 0 : 1000) + Number(option.dataset.rank);
    for (const option of options.sort((a, b) => rank(a) - rank(b))) option.parentElement.append(option);
  },

  addKey(event) {
    const shown = this.options().filter((option) => !option.hidden);
    if (event.key === 'Enter' && shown.length) { event.preventDefault(); this.add(shown[0].dataset.add); }
    if (event.key === 'ArrowDown' && shown.length) { event.preventDefault(); shown[0].focus(); }
    if (event.key === 'Escape') { this.adding = false; this.addText = ''; event.target.blur(); event.stopPropagation(); }
  },

  async add(type) {
    this.adding = false;
    this.addText = '';
    document.getElementById('add').blur();
    if (type === 'import') { document.getElementById('import').click(); return; }
    const picked = this.chosen.length ? (await this.refer(this.chosen)).map((found) => found.pick) : [];
    const before = new Set([...this.sheet.querySelectorAll('.step')].map((line) => line.dataset.line));
    this.chosen = [];
    this.viewer.light([]);
    await this.edit({ op: 'add', type, after: this.standing, picked, ...(type === 'sketch' ? { values: { draw: [] } } : {}) });
    if (this.standing && !this.tone) await this.stand(null);
    const line = await this.settled(before, type !== 'sketch');
    if (line && type === 'sketch') await this.draw(line);
  },

  async importFile(input) {
    const [file] = input.files;
    input.value = '';
    if (!file) return;
    if (file.size > 64 * 2 ** 20) { this.tell('Not done:', `${file.name} is larger than 64 MB. Save it smaller.`, 'fault'); return; }
    this.tell('Import:', `reading ${file.name} …`);
    const form = new FormData();
    form.append('file', file);
    try {
      await this.chain;
      const told = await send(this.path('imports'), form);
      this.take(told);
      await this.follow(told.job, { sheet: true, change: told.change });
    } catch (problem) { this.fail(problem); }
  },

  // When the new sentence has come, its first field is ready to be typed in.
  async settled(before, focus = true) {
    for (let i = 0; i < 60 || (this.job && !document.activeElement?.closest('input, select') && i < 900); i += 1) { // a tool takes its time
      const line = [...this.sheet.querySelectorAll('.step')].find((found) => !before.has(found.dataset.line));
      if (line) {
        line.scrollIntoView({ block: 'nearest' });
        const kinds = ['.detail input.number', 'input.number[data-kind="percent"]', 'input.number[data-kind="length"]', 'input.number'];
        const seen = (kind) => [...line.querySelectorAll(kind)].find((control) => control.offsetParent);
        const first = kinds.map(seen).find(Boolean);
        if (first && focus) { first.focus(); first.select(); }
        return line.dataset.line;
      }
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    return null;
  },

  // What was picked on a shape that is no longer shown is picked no more.
  forgetStale() {
    if (!this.gauging.items.every((item) => this.viewer.holds(item))) this.gauging.clear();
    if (this.chosen.every((item) => this.viewer.holds(item))) return;
    this.chosen = this.chosen.filter((item) => this.viewer.holds(item));
    this.viewer.light(marked(this.chosen));
  },

  // The mesh goes along: only the server knows whether its faces are still numbered as they are drawn here.
  async refer(items, extra = {}) {
    const told = await post(this.path('references'), { picked: items, upto: this.standing, ...extra });
    const job = await finished(told.job);
    if (job.state !== 'done') {
      this.chosen = [];
      this.rebuild(this.pick ? { upto: null, before: this.pick.step, picks: this.pick.picks } : {});
      throw new Problem(job.message, job.hint, 422);
    }
    return job.result.picks;
  },

  // --- picking -------------------------------------------------------------------------------------------------

  // Pick for a field: the view shows the model as it stood before the step, what is picked is lit.
  async startPicking({ step, field, kind, picks, single = false, rest = {}, extras = [] }) {
    this.pick = { step, field, kind, picks: [...picks], single, rest };
    this.extras = extras.map(([pick, words]) => ({ pick, words }));
    this.picking = true;
    this.rules = [];
    this.chosen = [];
    const line = this.sheet.querySelector(`[data-line="${CSS.escape(step)}"]`);
    for (const other of this.sheet.querySelectorAll('.step')) other.classList.toggle('is-active', other === line);
    this.pickLead = { any: 'Pick a flat face', axis: 'Pick an edge or a round face', spots: `Pick ${single ? 'a corner, round edge or face' : 'corners, round edges or faces'}` }[kind] || `Pick ${kind}`;
    this.viewer.wants = { any: 'faces', axis: 'any', spots: 'any' }[kind] || kind;
    this.tell(`${this.pickLead}:`, 'click in the view; click again to unpick; Done keeps them, Esc leaves them as they were');
    await this.lightPicks();
  },

  async lightPicks() {
    const { step, picks } = this.pick;
    const result = await this.rebuild({ upto: null, before: step, picks });
    if (!result || !this.picking) return;
    this.pickCount = picks.length;
    const lost = picks.length - result.picks.length;
    this.pickWords = picks.length ? `${picks.length} picked${lost > 0 && this.pick.kind !== 'spots' ? `, ${lost} not found` : ''}` : 'none picked yet';
    this.viewer.light(result.picks);
    this.viewer.setLines(result.picks.filter((pick) => pick.point).flatMap((pick) => crossAt(pick.point, this.viewer.reach() * 0.03)));
  },

  async picked(found, event) {
    if (this.gating) { const spot = this.viewer.spotAt(event.clientX, event.clientY); if (spot) await this.judging.gate(spot); return; }
    if (this.measuring && !this.picking) { await this.gauging.picked(found).catch((problem) => this.fail(problem)); return; }
    if (!this.picking && this.cut.on && await this.cutting.measure(event)) return;
    if (!this.picking) {
      if (!found) { this.chosen = []; this.viewer.light([]); return; }
      const same = (item) => item.body === found.body && item.face === found.face && item.edge === found.edge;
      this.chosen = this.chosen.some(same) ? this.chosen.filter((item) => !same(item)) : [...this.chosen, found];
      this.viewer.light(marked(this.chosen));
      const faces = this.chosen.filter((item) => item.face !== undefined).length;
      const edges = this.chosen.length - faces;
      const words = [faces && `${faces} face${faces > 1 ? 's' : ''}`, edges && `${edges} edge${edges > 1 ? 's' : ''}`].filter(Boolean).join(', ');
      this.tell('Picked:', words ? `${words}; / adds a step that uses them, H hides the body` : 'nothing');
      return;
    }
    if (!found) return;
    try {
      const [told] = await this.refer([found], { upto: null, before: this.pick.step, spots: this.pick.kind === 'spots' });
      if (this.pick.single) {
        if (told.flat === false && this.pick.kind === 'any') { this.tell('Not flat:', 'a sketch or plane needs a flat face', 'fault'); return; }
        this.pick.picks = [told.pick];
        this.donePicking();
        return;
      }
      const key = JSON.stringify(told.pick);
      const has = this.pick.picks.some((pick) => JSON.stringify(pick) === key);
      this.pick.picks = has ? this.pick.picks.filter((pick) => JSON.stringify(pick) !== key) : [...this.pick.picks, told.pick];
      this.rules = has ? [] : (told.rules || []).map((rule) => ({ ...rule, words: `${rule.count} · ${rule.words}` }));
      await this.lightPicks();
    } catch (problem) { this.fail(problem); }
  },

  // A rule takes the place of the pick that offered it, or joins the rule there is as the joint says.
  takeRule(words) {
    const { rule } = this.rules.find((found) => found.words === words);
    const before = this.pick.picks.filter((pick) => pick.rule);
    const held = before.length > 1 ? { rule: 'or', rules: before } : before[0];
    const joints = {
      instead: () => [rule],
      also: () => [...this.pick.picks.slice(0, -1), rule], // the last pick is the one that the rule takes in
      'only where': () => [{ rule: 'and', rules: [held, rule] }],
      'but not': () => [{ rule: 'and', rules: [held, { rule: 'not', rules: [rule] }] }],
    };
    this.pick.picks = (held ? joints[this.joint] : joints.instead)();
    this.rules = [];
    this.joint = 'instead';
    this.lightPicks();
  },

  // What can be picked without the view: the origin, datum points.
  takeExtra(words) {
    const pick = JSON.parse(this.extras.find((extra) => extra.words === words).pick);
    this.pick.picks = this.pick.single ? [pick] : [...this.pick.picks, pick];
    if (this.pick.single) this.donePicking(); else this.lightPicks();
  },

  clearPicks() { this.pick.picks = []; this.rules = []; this.lightPicks(); },

  donePicking() {
    const { step, field, picks, single, rest } = this.pick;
    this.stopPicking();
    if (!single) return this.edit({ op: 'set', step, field, value: picks });
    return this.edit({ op: 'set', step, field, value: picks.length ? { ...picks[0], ...rest } : null });
  },

  stopPicking() {
    this.picking = false;
    this.pick = null;
    this.rules = [];
    this.viewer.wants = 'any';
    this.viewer.light([]);
    this.viewer.setLines([]);
    for (const line of this.sheet.querySelectorAll('.is-active')) line.classList.remove('is-active');
  },

  // --- the view ------------------------------------------------------------------------------------------------

  listBodies() { this.bodies = bodyRows(this.result, this.viewer, this.lookOpen); },
  toggleBody(id) {
    const group = this.bodies.find((row) => row.id === id)?.ids;
    if (group) { this.toggleAll(group); return; }
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
      if (hide) this.aside.add(id); else this.aside.delete(id);
      this.viewer.setHidden(id, hide);
    }
    this.listBodies();
  },
  lightBody(id, name) {
    if (this.picking || this.measuring) return;
    this.viewer.light(id ? [{ body: id, edges: this.viewer.edgesOf(id) }] : []);
    if (id) this.tell(`${name}:`, this.result?.bodies.some((body) => body.id === id) ? 'lit in the view; used up by this step if it says so' : 'is used up by this step');
  },
  openLook(id) { this.lookOpen = this.lookOpen === id ? '' : id; this.listBodies(); },
  nameBody(id, event) { this.edit({ op: 'look', body: id, name: event.target.value.trim() }); },
  colourBody(id, colour) { this.edit({ op: 'look', body: id, colour }); },
  clearBody(id, clear) { this.edit({ op: 'look', body: id, clear: !clear }); },
  showContact(index) {
    const { place } = this.result.contacts[index];
    this.viewer.setLines(crossAt(place, this.viewer.reach() * 0.06));
    this.tell('Here:', this.contacts[index].words);
  },
  mendContact(index) { this.viewer.setLines([]); mend(this, this.result.contacts[index]); },

  // --- the gauges ----------------------------------------------------------------------------------------------

  get stripWords() { return !this.loaded ? 'building …' : this.judged.why || (this.judged.old ? 'judging …' : 'no body yet'); },
  openGauge(id) { return this.judging.open(id).catch((problem) => this.fail(problem)); },
  closeGauge() { this.judging.close(); },
  turnMap() { return this.judging.turnOver().catch((problem) => this.fail(problem)); },
  nextOffender() { this.judging.step(1); },
  lastOffender() { this.judging.step(-1); },
  toggleFigure(key) { this.figureOpen = this.figureOpen === key ? '' : key; },
  setPull(event) { return this.judging.setPull(event.target.value).catch((problem) => this.fail(problem)); },
  setTexture(event) { return this.edit({ op: 'document', texture: event.target.value.trim() || '0 mm' }); },
  pickGate() { this.judging.pickGate(); },
  dropGate() { return this.edit({ op: 'document', gate: 'no gate' }); },

  toggleMeasure() { if (this.measuring) this.gauging.stop(); else { this.stopPickingQuietly(); this.gauging.start(); } },
  keepMeasure() { return this.gauging.keep(); },
  clearMeasure() { this.gauging.clear(); },

  takeUnit(keeps) { return takeUnit(this, keeps).catch((problem) => this.fail(problem)); },
  dropUnit() { this.unitAsk = { ...this.unitAsk, on: false }; const field = document.querySelector('[data-unit-field]'); field.value = field.dataset.kept; },
  cycleMode() {
    this.mode = MODES[(MODES.indexOf(this.mode) + 1) % MODES.length];
    this.viewer.setMode(this.mode);
  },
  fit() { this.viewer.fit(); },
  toggleSection() { this.cutting.toggle(); },
  setAxis(axis) { this.cutting.across(axis); },
  moveSection() { this.cutting.move(); },
  wheelSection(event) { this.cutting.wheel(event); },
  placeSection(event) { this.cutting.place(event.target.value); },
  turnSection(event) { this.cutting.angle('turn', event.target.value); },
  tiltSection(event) { this.cutting.angle('tilt', event.target.value); },
  flipSection() { this.cutting.flip(); },
  keepSection() { return this.cutting.keep(); },
  forgetSection() { return this.cutting.forget(); },
  recallSection(event) { this.cutting.recall(event.target.value); },
  writeSection(format) { return this.cutting.write(format).catch((problem) => this.fail(problem)); },
  moveStroke() { this.stopPlay?.(); this.viewer.setStroke(Number(this.stroke)); },
  playStroke() {
    this.stopPlay?.();
    this.stopPlay = play((mm) => { this.stroke = mm; this.viewer.setStroke(mm); });
  },

  // --- keys ----------------------------------------------------------------------------------------------------

  back() {
    const offered = this.sheet.querySelectorAll('.place');
    if (this.tried) { this.tried = false; this.tell('Ready:', 'the part stays as it was'); this.rebuild(); } else if (offered.length) { for (const row of offered) row.remove(); this.tell('Ready:', 'the step stays where it is'); } else if (this.shown) { this.shown = ''; this.viewer.light([]); this.tell('Ready:', 'back at the sheet as it stands'); this.rebuild(); } else if (this.gating) { this.gating = false; this.tell('Ready:', 'the gate stays as it was'); } else if (this.measuring) this.gauging.stop(); else if (this.picking) { this.stopPicking(); this.tell('Ready:', 'the picks stay as they were'); this.rebuild(); } else if (this.adding || this.figureFor) { this.adding = false; this.figureFor = ''; } else if (this.gaugeOpen) this.closeGauge(); else if (this.cut.on) this.toggleSection(); else if (this.chosen.length) { this.chosen = []; this.viewer.light([]); this.tell('Ready:', 'nothing picked'); } else if (this.standing) this.stand(null);
  },

  listen() {
    document.addEventListener('keydown', (event) => {
      const typing = event.target.closest('input, select, textarea');
      if (event.ctrlKey || event.metaKey) {
        if (event.key.toLowerCase() === 'z' && !(typing && typing.dataset.kept !== undefined && typing.value !== typing.dataset.kept)) {
          event.preventDefault();
          if (event.shiftKey) this.redo(); else this.undo();
        }
        return;
      }
      if (this.sk.on) {
        if (event.key === 'Shift' && !typing) this.sk.more = true;
        if (this.sketcher.key(event)) event.preventDefault();
        return;
      }
      if (event.key === 'Escape' && !typing) { this.back(); return; }
      if (typing || event.altKey) return;
      const act = {
        '/': () => { document.getElementById('add').focus(); }, '[': () => this.moveMarker(-1), ']': () => this.moveMarker(1),
        v: () => this.cycleMode(), s: () => this.toggleSection(), m: () => this.toggleMeasure(), f: () => this.fit(), n: () => this.nextOffender(), p: () => this.lastOffender(),
        h: () => { for (const body of new Set(this.chosen.map((item) => item.body))) this.toggleBody(body); this.chosen = []; this.viewer.light([]); },
        '?': () => this.tell('Keys:', KEYS),
      }[event.key.length === 1 ? event.key.toLowerCase() : event.key];
      if (act) { event.preventDefault(); act(); }
    });
    document.addEventListener('keyup', (event) => { if (event.key === 'Shift' && this.sk.on) this.sk.more = this.sketcher.slotRow() === 2; });
    document.addEventListener('click', (event) => {
      const add = event.target.closest('[data-add]');
      if (add) { this.add(add.dataset.add).catch((problem) => this.fail(problem)); return; }
      const figure = event.target.closest('[data-figure]');
      if (figure) {
        const sizes = { rectangle: { width: '20 mm', height: '10 mm' }, circle: { diameter: '10 mm' }, polygon: { diameter: '12 mm' }, slot: { length: '12 mm', width: '4 mm' } };
        this.edit({ op: 'add figure', step: this.figureFor, figure: { kind: figure.dataset.figure, ...sizes[figure.dataset.figure] } });
        this.figureFor = '';
        return;
      }
      const look = event.target.closest('[data-look]');
      if (look) this.viewer.look(look.dataset.look);
      if (this.adding && !event.target.closest('#add')) this.adding = false;
      if (this.figureFor && !event.target.closest('[data-figure-for]')) this.figureFor = '';
    });
    document.getElementById('rosette').addEventListener('keydown', (event) => {
      if (event.key === 'Enter' || event.key === ' ') { event.preventDefault(); this.viewer.look(event.target.dataset.look); }
    });
    document.getElementById('import').addEventListener('change', (event) => this.importFile(event.target));
    document.getElementById('view').addEventListener('dblclick', () => { if (!this.chosen.length) document.getElementById('add').focus(); });
    document.querySelector('[data-unit-field]').addEventListener('change', (event) => askUnit(this, event.target.value).catch((problem) => this.fail(problem)));
    for (const field of document.querySelectorAll('[data-document-field]')) {
      field.addEventListener('change', () => {
        if (!field.value.trim()) { field.value = field.dataset.kept; return; }
        field.dataset.kept = field.value;
        this.edit({ op: 'document', [field.dataset.documentField]: field.value });
      });
      field.addEventListener('keydown', (event) => {
        if (event.key === 'Enter') field.blur();
        if (event.key === 'Escape' && field.dataset.kept) { field.value = field.dataset.kept; field.blur(); }
      });
    }
  },
}));

Alpine.start();
