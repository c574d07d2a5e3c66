// Building: edits kept or tried, builds followed to their end, and what they give shown.

import { Problem, call, finished, post } from '../api.js';
import { UNITS } from '../facts.js';
import { exactly, fixed } from '../numbers.js';
import { contactRows } from './bodies.js';
import { marked } from './measuring.js';
import { swapSheet } from './sheet.js';

/** @type {ThisType<any> & Record<string, any>} */
export const building = {
  path(rest) {
    return `/api/documents/${this.id}/${rest}`;
  },

  tell(lead, say, tone = '', offer = '', onOffer = null) {
    Object.assign(this, { lead, say, tone, offer, onOffer });
  },

  takeOffer() {
    const act = this.onOffer;
    this.offer = '';
    if (act) act();
  },

  fail(problem) {
    if (!(problem instanceof Problem)) throw problem;
    const reload = problem.status === 409 || problem.status === 403;
    this.tell(
      'Not done:',
      [problem.message, problem.hint].filter(Boolean).join(' '),
      'fault',
      reload ? 'Reload' : '',
      () => location.reload(),
    );
  },

  // What was last shown of the document stands there until it has been built anew.
  async begin() {
    const built = this.rebuild();
    try {
      /** @type {Wire.LookAnswer} */
      const look = this.standing ? null : await call(this.path('look'));
      if (look?.build && !this.loaded) {
        this.result = look.build;
        this.arrange(look.build);
        await this.viewer.show(
          look.build.bodies.filter((body) => body.mesh),
          this.drawn(look.build),
        );
        if (!this.loaded) {
          this.showFigures(look.build);
          this.rebuilt = 'as last seen; being checked';
        }
      }
      if (look?.gauges && !this.gauges.result) this.gauges.foresee(look.gauges);
    } catch (problem) {
      this.fail(problem);
    }
    return built;
  },

  async rebuild(extra = {}, again = 0) {
    try {
      /** @type {Wire.RevisionAnswer_BuildResult} */
      const answer = await post(this.path('build'), { upto: this.standing, ...extra });
      return await this.follow(answer.job, { sheet: !extra.before, again });
    } catch (problem) {
      this.fail(problem);
      return null;
    }
  },

  // Keep an edit. Edits wait for each other, since each names the revision it was made from.
  edit(edit) {
    this.modes.end('shown');
    this.kept += 1;
    // A question that is passed over is answered with no: the list says again what the document's unit is.
    if (this.unitAsk.on && edit.op !== 'document') this.dropUnit();
    this.chain = this.chain.then(async () => {
      try {
        /** @type {Wire.RevisionAnswer_BuildResult} */
        const answer = await post(this.path('edits'), {
          base: this.revision,
          edit,
          upto: this.standing,
          instead: this.isRefused(edit),
        });
        this.take(answer);
        this.follow(answer.job, { sheet: true, change: answer.change, edit });
      } catch (problem) {
        this.fail(problem);
        if (edit.op === 'set') this.markWrong(edit.step, edit.field);
      }
    });
    return this.chain;
  },

  // Begin an empty part: with the list's own sketch or import, else with what the server makes of it.
  beginWith(what) {
    if (what === 'sketch' || what === 'import') {
      this.add(what);
      return this.chain;
    }
    this.chain = this.chain.then(async () => {
      try {
        /** @type {Wire.RevisionAnswer_BuildResult} */
        const answer = await post(this.path('beginning'), { base: this.revision, like: what });
        this.take(answer);
        await this.follow(answer.job, { sheet: true, change: answer.change });
        this.fit();
      } catch (problem) {
        this.fail(problem);
      }
    });
    return this.chain;
  },

  // Take up what has moved on in all documents that this one builds on, one after another.
  catchUp() {
    this.chain = this.chain.then(async () => {
      try {
        /** @type {Wire.RevisionAnswer_BuildResult} */
        const answer = await post(this.path('catch-up'));
        this.take(answer);
        this.follow(answer.job, { sheet: true, change: answer.change });
      } catch (problem) {
        this.fail(problem);
      }
    });
    return this.chain;
  },

  // Whether an edit types anew what was refused just before: the two are one step back.
  isRefused({ op, step, field }) {
    const { refused } = this;
    return Boolean(
      refused && op === 'set' && refused.revision === this.revision && refused.step === step && refused.field === field,
    );
  },

  take(answer) {
    this.revision = answer.revision;
    this.undoCount = answer.undo;
    this.canRedo = answer.redo;
  },

  async preview(edit) {
    const serial = (this.serial += 1);
    try {
      /** @type {Wire.PreviewStarted_BuildResult} */
      const answer = await post(this.path('preview'), { edit, upto: this.standing });
      if (serial === this.serial) await this.follow(answer.job, { preview: edit });
    } catch (problem) {
      this.fail(problem);
    }
  },

  // Show what an edit would make of everything, and what it would break, before it is kept or thrown away.
  async tryOut(edit) {
    this.tell('Trying:', 'building with the newer part …');
    await this.preview(edit);
    if (this.busy || !this.result) return;
    this.modes.enter('trying', () => {
      this.tell('Ready:', 'the part stays as it was');
      this.rebuild();
    });
    const labels = new Map(
      [...this.sheet.querySelectorAll('.step')].map((line) => [
        line.dataset.line,
        line.querySelector('.step-number').textContent,
      ]),
    );
    const wrong = this.result.steps.filter(
      (step) => step.status === 'failed' || step.flags?.some((flag) => !['ordered', 'caution'].includes(flag.status)),
    );
    const warning = wrong
      .map((step) => `step ${labels.get(step.id)}: ${step.words || step.flags.map((flag) => flag.words).join(' ')}`)
      .join(' ');
    this.tell(
      'Tried:',
      warning || 'every step builds with the newer part, and every pick is found again; Esc leaves it',
      wrong.length ? 'fault' : '',
      'Keep it',
      () => {
        this.modes.end('trying');
        this.edit(edit);
      },
    );
  },

  /** @param {Wire.Job<Wire.BuildResult>} jobId */
  async follow(jobId, { sheet = false, preview = null, change = '', again = 0, edit = null } = {}) {
    const serial = (this.serial += 1);
    const { kept } = this;
    // A trial is over once something is kept: what it says must not stand over what came of that.
    const stale = () => serial !== this.serial || Boolean(preview && kept !== this.kept);
    const began = performance.now();
    this.job = jobId;
    let seen = 0;
    const job = await finished(
      jobId,
      (running) => {
        if (!stale() && running.seen && running.seen.number !== seen) {
          seen = running.seen.number;
          this.foreshow(running.seen.bodies, stale);
        }
        if (stale() || performance.now() - began < 700) return;
        this.busy = true;
        const { at } = running;
        const shown = seen ? `Seen up to step ${seen}; ` : '';
        const step = at?.number ? `${seen ? 'step' : 'Step'} ${at.number} of ${at.of}: ${at.label}` : at?.label;
        this.progress = at ? `${shown}${step}` : 'Getting ready …';
      },
      stale,
    );
    if (stale()) return null;
    this.busy = false;
    if (job.state !== 'done') {
      if (seen) await this.showAgain();
      if (this.rebuilt.startsWith('as last seen')) this.rebuilt = 'as last seen';
      this.tell('Stopped:', [job.message, job.hint].filter(Boolean).join(' '), 'fault', 'Try again', () =>
        this.rebuild(),
      );
      if (sheet) await this.refreshSheet();
      // The step that was too much is known now: built once more without it, the rest can be shown. There may be several.
      if (['too long', 'died'].includes(job.state) && job.at && !preview && again < 5)
        await this.rebuild({}, again + 1);
      return null;
    }
    const { result } = job;
    this.result = result;
    this.loaded = true;
    this.arrange(result);
    this.viewer.hidden = this.hiddenBodies(result.bodies);
    await this.viewer.show(
      result.bodies.filter((body) => body.mesh),
      this.drawn(result),
    );
    if (stale()) return null;
    this.drawGround();
    this.showHandles();
    this.forgetStale();
    this.rebuilt = `rebuilt ${fixed(result.ms / 1000, 2)} s`;
    this.showFigures(result);
    const bad = result.steps.find((step) => step.status === 'failed');
    if (edit) {
      const fell = result.steps.some((step) => step.id === edit.step && step.status === 'failed');
      this.refused = edit.op === 'set' && fell ? { ...edit, revision: this.revision } : null;
    }
    if (bad) {
      const place = result.steps.indexOf(bad) + 1;
      this.tell(
        `Step ${place}${bad.field ? `, ${bad.field.split('.').pop().replace('_', ' ')}` : ''}:`,
        bad.message,
        'fault',
      );
      if (preview) this.markWrong(bad.id, bad.field);
      if (bad.sized) this.advise(bad, preview, stale);
    } else if (preview) {
      this.markWrong(null);
      this.tell(this.lead, 'Enter keeps it, Esc leaves it as it was');
    } else if (change) this.tell('Done:', change);
    if (this.cut.on) this.cutting.outline().catch((problem) => this.fail(problem));
    if (sheet) this.gauges.ask();
    if (sheet) await this.refreshSheet(jobId);
    if (sheet && bad)
      this.sheet.querySelector(`[data-line="${CSS.escape(bad.id)}"]`)?.scrollIntoView({ block: 'nearest' });
    document.documentElement.dataset.ready = String(serial);
    if (sheet && this.picking) await this.lightPicks();
    if (sheet) await this.readLesson();
    return result;
  },

  // What a build has come to so far; what was there before stands faint, until the later steps follow.
  foreshow(bodies, stale) {
    const before = (this.result?.bodies || []).filter((body) => body.mesh && !this.viewer.hidden.has(body.id));
    const faint = before.map((body) => ({ ...body, id: `was ${body.id}`, ghost: true }));
    const drawn = this.result ? this.drawn(this.result) : [];
    this.viewer.show([...bodies.filter((body) => body.mesh), ...faint], drawn).catch((problem) => {
      if (!stale()) this.fail(problem);
    });
  },

  // Nothing came of the build: what was there before stands there again.
  async showAgain() {
    if (!this.result) return;
    await this.viewer.show(
      this.result.bodies.filter((body) => body.mesh),
      this.drawn(this.result),
    );
  },

  // What would fit is looked for beside the work that goes on; it is said when it comes, unless something newer is shown.
  async advise(bad, preview, stale) {
    try {
      /** @type {Wire.Started_AdviceResult} */
      const answer = await post(this.path('advice'), { step: bad.id, edit: preview });
      const job = await finished(answer.job, () => {}, stale);
      const advice = !stale() && job.state === 'done' ? job.result.advice : null;
      if (!advice) return;
      if (advice.value)
        this.tell(this.lead, `${bad.words} ${advice.words}`, 'fault', `Use ${advice.value}`, () =>
          this.edit({ op: 'set', step: advice.step, field: advice.field, value: advice.value }),
        );
      const line = this.sheet.querySelector(`[data-advice="${CSS.escape(advice.step)}"]`);
      if (!line || preview) return;
      line.hidden = false;
      line.textContent = `${advice.words} `;
      if (!advice.value) return;
      const use = Object.assign(document.createElement('button'), {
        type: 'button',
        className: 'textlink',
        textContent: `Use ${advice.value}`,
      });
      Object.assign(use.dataset, { use: advice.step, field: advice.field, fits: advice.value });
      line.append(use);
    } catch (problem) {
      this.fail(problem);
    }
  },

  async refreshSheet(jobId = '') {
    const html = await call(`/documents/${this.id}/sheet?job=${jobId}&at=${this.standing || ''}`);
    await this.landed;
    this.rescuePanel();
    swapSheet(this.sheet, html);
    this.placePanel();
    this.modes.end('moving'); // the places offered are gone with the old sheet
    this.countSteps();
  },

  countSteps() {
    const count = this.sheet.querySelectorAll('.step').length;
    this.stepCount = `${count} step${count === 1 ? '' : 's'}`;
  },

  // What the list says is to be seen, and the lines of the step that is open.
  drawn(result) {
    const open = this.sheet.querySelector('.step.is-open')?.dataset.line;
    const things = this.allThings(result).filter(({ key, usual, drawn }) => drawn && this.seen.shown(key, usual));
    const lines = result.lines[open];
    const noted = things.some(({ key }) => key === `note/${open}`);
    return [...things.map(({ drawn }) => drawn), ...(lines && !noted ? [{ kind: 'note', lines }] : [])];
  },

  redraw() {
    if (this.result) this.viewer.overlay.redraw(this.drawn(this.result));
  },

  cancel() {
    if (this.job) call(`/api/jobs/${this.job}`, { method: 'DELETE' }).catch((p) => this.fail(p));
  },

  showFigures(result) {
    const bodies = result.bodies;
    this.listBodies();
    this.stale = bodies.some((body) => body.stale);
    this.contacts = contactRows(result.contacts, this.unit);
    const scale = UNITS[this.unit];
    const spans = (list) =>
      [0, 1, 2].map((i) => (Math.max(...list.map((b) => b.high[i])) - Math.min(...list.map((b) => b.low[i]))) / scale);
    const own = bodies.filter((body) => body.role !== 'neighbour');
    this.size = own.length
      ? `${spans(own)
          .map((s) => exactly(s, 2))
          .join(' × ')} ${this.unit}`
      : '';
  },

  markWrong(step, field) {
    for (const marked of this.sheet.querySelectorAll('.is-wrong')) marked.classList.remove('is-wrong');
    if (!step) return;
    for (const control of this.sheet.querySelectorAll(`[data-step="${CSS.escape(step)}"]`)) {
      if (control.dataset.field === field) control.classList.add('is-wrong');
    }
  },

  // What was picked on a shape that is no longer shown is picked no more.
  forgetStale() {
    if (!this.measurer.items.every((item) => this.viewer.picker.holds(item))) this.measurer.clear();
    if (this.chosen.every((item) => this.viewer.picker.holds(item))) return;
    this.chosen = this.chosen.filter((item) => this.viewer.picker.holds(item));
    this.viewer.overlay.light(marked(this.chosen));
  },
};
