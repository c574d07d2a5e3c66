// Picking in the view: for a field of a step, or ahead of the step that is to use it.

import { Problem, finished, post } from '../api.js';
import { crossAt } from '../view/strokes.js';
import { marked } from './measuring.js';

/** @type {ThisType<any> & Record<string, any>} */
export const picking = {
  get hasRule() {
    return this.picking && this.pickCount > 0 && this.pick.picks.some((pick) => pick.rule);
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
    this.pick = { step, field, kind, picks: [...picks], single, rest, then };
    this.extras = extras.map(([pick, words]) => ({ pick, words }));
    this.picking = true;
    this.modes.enter('picking', () => {
      this.stopPicking();
      this.tell('Ready:', 'the picks stay as they were');
      this.rebuild();
    });
    this.rules = [];
    this.chosen = [];
    const line = this.sheet.querySelector(`[data-line="${CSS.escape(step)}"]`);
    for (const other of this.sheet.querySelectorAll('.step')) other.classList.toggle('is-active', other === line);
    this.pickLead =
      {
        any: 'Pick a flat face',
        axis: 'Pick an edge or a round face',
        spots: `Pick ${single ? 'a corner, round edge or face' : 'corners, round edges or faces'}`,
      }[kind] || `Pick ${kind}`;
    this.viewer.wants = { any: 'faces', axis: 'any', spots: 'any' }[kind] || kind;
    this.tell(
      `${this.pickLead}:`,
      'click in the view; click again to unpick; Done keeps them, Esc leaves them as they were',
    );
    await this.lightPicks();
  },

  async lightPicks() {
    const { step, picks } = this.pick;
    const result = await this.rebuild({ upto: null, before: step, picks });
    if (!result || !this.picking) return;
    this.pickCount = picks.length;
    this.pick.lit = result.picks;
    const lost = picks.length - result.picks.length;
    const caught = result.picks.reduce((sum, { faces, edges }) => sum + Math.max(faces.length + edges.length, 1), 0);
    this.pickWords = picks.length
      ? `${caught} picked${lost > 0 && this.pick.kind !== 'spots' ? `, ${lost} not found` : ''}`
      : 'none picked yet';
    this.viewer.overlay.light(result.picks);
    this.viewer.overlay.setLines(
      result.picks.filter((pick) => pick.point).flatMap((pick) => crossAt(pick.point, this.viewer.reach() * 0.03)),
    );
  },

  async picked(hit, event) {
    if (this.placing) {
      await this.placed(hit).catch((problem) => this.fail(problem));
      return;
    }
    if (this.gating) {
      const spot = this.viewer.picker.spotAt(event.clientX, event.clientY);
      if (spot) await this.gauges.gate(spot);
      return;
    }
    if (this.measuring && !this.picking) {
      await this.measurer.picked(hit).catch((problem) => this.fail(problem));
      return;
    }
    if (!this.picking && this.cut.on && (await this.cutting.measure(event))) return;
    if (!this.picking) {
      if (!hit) {
        this.chosen = [];
        this.viewer.overlay.light([]);
        return;
      }
      const same = (item) => item.body === hit.body && item.face === hit.face && item.edge === hit.edge;
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
    try {
      const [reference] = await this.refer([hit], {
        upto: null,
        before: this.pick.step,
        spots: this.pick.kind === 'spots',
      });
      if (this.pick.single) {
        if (reference.flat === false && this.pick.kind === 'any') {
          this.tell('Not flat:', 'a sketch or plane needs a flat face', 'fault');
          return;
        }
        this.pick.picks = [reference.pick];
        this.donePicking();
        return;
      }
      // What was picked before may be told in other words now: it is known again by where it lies.
      const lies = ({ pick, body, faces, edges }) =>
        !pick.rule &&
        body === hit.body &&
        (hit.edge === undefined ? faces.includes(hit.face) : edges.includes(hit.edge));
      const before = (this.pick.lit || []).find(lies);
      const key = JSON.stringify(before ? before.pick : reference.pick);
      const has = this.pick.picks.some((pick) => JSON.stringify(pick) === key);
      this.pick.picks = has
        ? this.pick.picks.filter((pick) => JSON.stringify(pick) !== key)
        : [...this.pick.picks, reference.pick];
      this.rules = has
        ? []
        : (reference.rules || []).map((rule) => ({ ...rule, words: `${rule.count} · ${rule.words}` }));
      await this.lightPicks();
    } catch (problem) {
      this.fail(problem);
    }
  },

  // A rule takes the place of the pick that offered it, or joins the rule there is as the joint says.
  takeRule(words) {
    const { rule } = this.rules.find((one) => one.words === words);
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
    if (this.pick.single) this.donePicking();
    else this.lightPicks();
  },

  clearPicks() {
    this.pick.picks = [];
    this.rules = [];
    this.lightPicks();
  },

  async donePicking() {
    const { step, field, picks, single, rest, then } = this.pick;
    this.stopPicking();
    const one = picks.length ? { ...picks[0], ...rest } : null;
    await this.edit({ op: 'set', step, field, value: single ? one : picks });
    if (then) await then();
  },

  stopPicking() {
    this.picking = false;
    this.modes.end('picking');
    this.pick = null;
    this.rules = [];
    this.viewer.wants = 'any';
    this.viewer.overlay.light([]);
    this.viewer.overlay.setLines([]);
    for (const line of this.sheet.querySelectorAll('.is-active')) line.classList.remove('is-active');
  },
};
