// Picking in the view: for a field of a step, or ahead of the step that is to use it.

import { Problem, finished, post } from '../api.js';
import { crossAt } from '../view/strokes.js';
import { marked } from './measuring.js';

const MOST = 400; // picks that are asked for at once

/** @type {ThisType<any> & Record<string, any>} */
export const picking = {
  get hasRule() {
    return this.picking && this.taken.length > 0;
  },

  stopPickingQuietly() {
    if (this.picking) this.stopPicking();
  },

  // Light faces or edges in the model as it stood before a step; Esc goes back.
  async showPicks(step, picks) {
    const result = await this.rebuild({ upto: null, before: step, picks });
    if (!result) return;
    this.modes.enter('shown', () => {
      this.viewer.overlay.light([]);
      this.tell('Ready:', 'back at the sheet as it stands');
      this.rebuild();
    });
    this.viewer.overlay.light(result.picks);
    this.tell('Shown:', 'the model as it stood before this step; Esc goes back', '', 'Back', () => this.back());
  },

  // The mesh goes along: only the server knows whether its faces are still numbered as they are drawn here.
  async refer(items, extra = {}) {
    /** @type {Wire.Started_References} */
    const answer = await post(this.path('references'), { picked: items, upto: this.standing, ...extra });
    const job = await finished(answer.job);
    if (job.state !== 'done') {
      this.chosen = [];
      this.rebuild(this.pick ? { upto: null, before: this.pick.step, picks: this.pick.picks } : {});
      throw new Problem(job.message, job.hint, 422);
    }
    return job.result.picks;
  },

  // Pick for a field: the view shows the model as it stood before the step, what is picked is lit.
  async startPicking({ step, field, kind, picks, single = false, rest = {}, extras = [], then = null }) {
    await this.keepPicks();
    this.pick = {
      step,
      field,
      kind,
      picks: [...picks],
      single,
      rest,
      then,
      past: [],
      before: JSON.stringify(picks),
      queue: Promise.resolve(),
    };
    this.extras = extras.map(([pick, words]) => ({ pick, words }));
    this.picking = true;
    this.modes.enter('picking', () => {
      this.stopPicking();
      this.tell('Ready:', 'the picks stay as they were');
      this.rebuild();
    });
    this.rules = [];
    this.taken = [];
    this.chosen = [];
    const line = this.lineOf(step);
    for (const other of this.sheet.querySelectorAll('.step')) other.classList.toggle('is-active', other === line);
    this.pickLead =
      {
        any: 'Pick a flat face',
        axis: 'Pick an edge or a round face',
        spots: `Pick ${single ? 'a corner, round edge or face' : 'corners, round edges or faces'}`,
      }[kind] || `Pick ${kind}`;
    this.pickHelp = single
      ? 'Click it in the view; Esc leaves it as it was.'
      : `Click in the view, again to unpick. ${kind === 'edges' ? 'A face gives the edges round it. ' : ''}Ctrl and drag pulls a window.`;
    this.viewer.wants = { any: 'faces', axis: 'any', spots: 'any', edges: 'any' }[kind] || kind;
    this.viewer.windows.wanted = !single && ['faces', 'edges'].includes(kind);
    this.placePanel();
    this.tell(`${this.pickLead}:`, 'click in the view; Enter or Done keeps them, Esc leaves them as they were');
    await this.lightPicks();
  },

  picksFor(step, field) {
    return this.picking && this.pick.step === step && this.pick.field === field;
  },

  lineOf(step) {
    return this.sheet.querySelector(`[data-line="${CSS.escape(step)}"]`);
  },

  // What the chip of a field asks for.
  wantedBy(button) {
    const { step, field, pick, picks, single, extras } = button.dataset;
    return {
      step,
      field,
      kind: pick,
      picks: JSON.parse(picks),
      single: single === 'yes',
      extras: JSON.parse(extras || '[]'),
    };
  },

  // A step that was just added and has nothing picked takes clicks in the view at once.
  async pickAtOnce(step) {
    const chips = [...this.lineOf(step).querySelectorAll('.sentence [data-pick]')];
    const chip = chips.find((one) => one.tagName === 'BUTTON' && one.dataset.picks === '[]');
    if (chip && this.result?.bodies.length) await this.startPicking(this.wantedBy(chip));
  },

  // The panel stands under the chip that it fills, and the chip says what it will say.
  placePanel() {
    if (!this.picking) return;
    const line = this.lineOf(this.pick.step);
    line?.classList.add('is-picking');
    const chip = this.chipOf();
    chip?.classList.add('is-on');
    const panel = document.getElementById('pickbar');
    (chip?.closest('.sentence, .detail') || line)?.after(panel);
    this.labelChip();
    panel.scrollIntoView({ block: 'nearest' });
  },

  chipOf() {
    const field = CSS.escape(this.pick.field);
    const line = this.lineOf(this.pick.step);
    return line?.querySelector(`[data-pick][data-field="${field}"]`) || line?.querySelector(`[data-field="${field}"]`);
  },

  // While one picks the chip says how many; what it said before comes back if the picks are left as they were.
  labelChip() {
    const chip = this.chipOf();
    if (chip?.tagName !== 'BUTTON') return;
    chip.dataset.words ??= chip.textContent;
    chip.textContent = this.pick.picks.length ? this.pickWords : chip.dataset.words;
  },

  // The panel must not go with a sheet that is replaced.
  rescuePanel() {
    document.getElementById('pick-home').append(document.getElementById('pickbar'));
  },

  async lightPicks() {
    const { step, picks } = this.pick;
    const result = await this.rebuild({ upto: null, before: step, picks });
    if (!result || !this.picking) return;
    this.pickCount = picks.length;
    this.pick.lit = result.picks;
    const lost = picks.length - result.picks.length;
    const size = ({ faces, edges }) => faces.length + edges.length;
    const caught = result.picks.reduce((sum, lit) => sum + Math.max(size(lit), 1), 0);
    this.pickWords = picks.length
      ? `${caught} picked${lost > 0 && this.pick.kind !== 'spots' ? `, ${lost} not found` : ''}`
      : 'none picked yet';
    this.taken = picks.flatMap((pick, index) => {
      const lit = pick.rule && result.picks.find((one) => JSON.stringify(one.pick) === JSON.stringify(pick));
      return lit ? [{ index, words: lit.words, count: size(lit), lit: [lit] }] : [];
    });
    this.labelChip();
    this.showLit(result.picks);
  },

  showLit(lit) {
    this.viewer.overlay.light(lit);
    this.viewer.overlay.setLines(
      lit.filter((pick) => pick.point).flatMap((pick) => crossAt(pick.point, this.viewer.reach() * 0.03)),
    );
  },

  // Show in the view what a line of the panel stands for; null shows what is picked again.
  lightItems(row) {
    if (!this.picking) return;
    if (row) this.viewer.overlay.light(row.lit.map((lit) => ({ ...lit })));
    else this.showLit(this.pick.lit || []);
  },

  // Every change of the picks can be taken back.
  async setPicks(picks) {
    this.pick.past.push(this.pick.picks);
    this.pick.picks = picks;
    await this.lightPicks();
  },

  async unpickLast() {
    const past = this.pick.past.pop();
    if (!past) return false;
    this.pick.picks = past;
    this.rules = [];
    await this.lightPicks();
    return true;
  },

  async picked(hit, event) {
    if (this.placing) {
      await this.placed(hit).catch((problem) => this.fail(problem));
      return;
    }
    if (this.onSpot) {
      await this.takeSpot(event);
      return;
    }
    if (this.measuring && !this.picking) {
      await this.measurer.picked(hit).catch((problem) => this.fail(problem));
      return;
    }
    if (!this.picking && this.cut.on && (await this.cutting.measure(event))) return;
    if (!this.picking) {
      if (!hit) {
        this.handleStep(null);
        this.chosen = [];
        this.viewer.overlay.light([]);
        return;
      }
      const same = (item) => item.body === hit.body && item.face === hit.face && item.edge === hit.edge;
      this.clicked = event ? this.viewer.picker.spotAt(event.clientX, event.clientY) : null;
      this.chosen = this.chosen.some(same) ? this.chosen.filter((item) => !same(item)) : [...this.chosen, hit];
      this.viewer.overlay.light(marked(this.chosen));
      const faces = this.chosen.filter((item) => item.face !== undefined).length;
      const edges = this.chosen.length - faces;
      const words = [faces && `${faces} face${faces > 1 ? 's' : ''}`, edges && `${edges} edge${edges > 1 ? 's' : ''}`]
        .filter(Boolean)
        .join(', ');
      this.tell('Picked:', words ? `${words}; / adds a step that uses them, H hides the body` : 'nothing');
      return;
    }
    if (!hit) return;
    await this.pickInTurn([hit]);
  },

  // Picks are taken one after the other, and Done waits for them: a quick hand loses none.
  pickInTurn(hits) {
    const { pick } = this;
    pick.queue = pick.queue.then(() => {
      if (this.pick === pick) return this.pickItems(hits).catch((problem) => this.fail(problem));
      return undefined;
    });
    return pick.queue;
  },

  // Take what was hit, or clicked again, by lasting references; of one hit, the rules that catch it and more are offered.
  async pickItems(hits) {
    const loops = this.pick.kind === 'edges' && hits.some((hit) => hit.face !== undefined);
    const items = hits.slice(0, MOST);
    const { step, kind } = this.pick;
    const rules = hits.length === 1 && ['faces', 'edges'].includes(kind); // other fields take no rules
    const found = await this.refer(items, { upto: null, before: step, spots: kind === 'spots', loops, rules });
    if (!this.picking) return;
    if (this.pick.single) {
      const [reference] = found;
      if (reference.flat === false && kind === 'any') {
        this.tell('Not flat:', 'a sketch or plane needs a flat face', 'fault');
        return;
      }
      this.pick.picks = [reference.pick];
      await this.endPicking();
      return;
    }
    const wanted = found.flatMap(({ pick, further = [] }) => [pick, ...further]);
    if (hits.length === 1 && this.caughtByRule(hits[0])) {
      this.tell(`${this.pickLead}:`, 'a rule has caught this already; unpick the rule in the sheet to leave it out');
      return;
    }
    const keys = new Map(this.pick.picks.map((pick) => [JSON.stringify(pick), pick]));
    // What was picked before may be told in other words now: it is known again by where it lies.
    const before = hits.length === 1 ? this.pickAt(hits[0]) : null;
    const first = JSON.stringify(before ? before.pick : wanted[0]);
    const again = hits.length === 1 && wanted.length > 0 && keys.has(first);
    if (again) {
      keys.delete(first);
      for (const pick of wanted.slice(1)) keys.delete(JSON.stringify(pick));
    } else for (const pick of wanted) keys.set(JSON.stringify(pick), pick);
    const { body } = hits[0];
    this.rules = again
      ? []
      : found[0].rules.map(({ rule, words, items: caught }, index) => ({
          index,
          rule,
          words,
          count: caught.length,
          of: first,
          lit: [{ body, [kind]: caught }],
        }));
    if (hits.length > MOST)
      this.tell(`${this.pickLead}:`, `the first ${MOST} of ${hits.length} in the window were taken`);
    await this.setPicks([...keys.values()]);
  },

  async pickWindow(window, touching) {
    if (!this.picking) return;
    const hits = this.viewer.windows.within(window, this.pick.kind, touching);
    if (hits.length) await this.pickInTurn(hits);
    else
      this.tell(`${this.pickLead}:`, `nothing lies wholly in the window; with Shift held it takes all that it touches`);
  },

  lies(lit, hit) {
    return (
      lit.body === hit.body && (hit.edge === undefined ? lit.faces.includes(hit.face) : lit.edges.includes(hit.edge))
    );
  },

  pickAt(hit) {
    return (this.pick.lit || []).find((lit) => !lit.pick.rule && this.lies(lit, hit));
  },

  caughtByRule(hit) {
    return !this.pickAt(hit) && (this.pick.lit || []).some((lit) => lit.pick.rule && this.lies(lit, hit));
  },

  // A rule takes the place of the pick that offered it, or narrows the rules there are.
  takeRule(index, joint) {
    const { rule, of } = this.rules[index];
    const rest = this.pick.picks.filter((pick) => JSON.stringify(pick) !== of);
    const before = rest.filter((pick) => pick.rule);
    const held = before.length > 1 ? { rule: 'or', rules: before, body: rule.body } : before[0];
    const singles = rest.filter((pick) => !pick.rule);
    this.rules = [];
    return this.setPicks(
      {
        also: () => [...rest, rule],
        'only where': () => [...singles, { rule: 'and', rules: [held, rule], body: rule.body }],
        'but not': () => [...singles, { rule: 'and', rules: [held, { rule: 'not', rules: [rule] }], body: rule.body }],
      }[joint](),
    );
  },

  // All faces or edges of a body, by its name in the list.
  pickBody(id) {
    const { kind, picks, single } = this.pick;
    if (single || !['faces', 'edges'].includes(kind)) return;
    const rule = { rule: kind === 'faces' ? 'every face' : 'every', body: id };
    this.rules = [];
    this.setPicks([...picks.filter((pick) => pick.body !== id && pick.body), rule]);
  },

  unpick(index) {
    this.rules = [];
    return this.setPicks(this.pick.picks.filter((_, at) => at !== index));
  },

  // What can be picked without the view: the origin, datum points.
  takeExtra(words) {
    const pick = JSON.parse(this.extras.find((extra) => extra.words === words).pick);
    if (!this.pick.single) return this.setPicks([...this.pick.picks, pick]);
    this.pick.picks = [pick];
    return this.donePicking();
  },

  clearPicks() {
    this.rules = [];
    return this.setPicks([]);
  },

  async donePicking() {
    const { pick } = this;
    await pick.queue;
    if (this.pick === pick) await this.endPicking();
  },

  async endPicking() {
    const { step, field, kind, picks, single, rest, then, before } = this.pick;
    this.stopPicking();
    const one = picks.length ? { ...picks[0], ...rest } : null;
    const needed = single && !one && kind !== 'spots'; // a plane or an axis cannot be nothing: it stays as it was
    if (needed || (JSON.stringify(picks) === before && !single)) await this.rebuild();
    else await this.edit({ op: 'set', step, field, value: single ? one : picks });
    if (then) await then();
  },

  // Something else is begun: what was picked so far is kept, and no place for a sketch is asked for any more.
  async keepPicks() {
    if (this.placing) this.stopPlacing();
    if (this.picking) await this.donePicking();
  },

  stopPicking() {
    const chip = this.chipOf();
    if (chip?.dataset.words) chip.textContent = chip.dataset.words;
    this.picking = false;
    this.modes.end('picking');
    this.rescuePanel();
    this.pick = null;
    this.rules = [];
    this.taken = [];
    this.viewer.wants = 'any';
    this.viewer.windows.wanted = false;
    this.viewer.overlay.light([]);
    this.viewer.overlay.setLines([]);
    for (const line of this.sheet.querySelectorAll('.is-active, .is-picking')) {
      line.classList.remove('is-active', 'is-picking');
      for (const chip of line.querySelectorAll('[data-pick].is-on')) chip.classList.remove('is-on');
    }
  },
};
