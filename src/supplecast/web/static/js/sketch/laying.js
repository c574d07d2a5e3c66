// Drawing with a tool, click by click: what the pointer means on the way, typed places, chains that go on.

import { placed } from '../numbers.js';
import { Problem, post } from '../api.js';
import { UNITS } from '../facts.js';

export class Laying {
  constructor(sheet) {
    this.sheet = sheet;
  }

  async aim(event) {
    this.sheet.aimed = { px: event.offsetX, py: event.offsetY, free: event.altKey };
    if (this.sheet.aiming) return;
    this.sheet.aiming = true;
    while (this.sheet.aimed) {
      const { px, py, free } = this.sheet.aimed;
      this.sheet.aimed = null;
      await this.guessAt(this.sheet.drawing.mm(px, py), free);
    }
    this.sheet.aiming = false;
  }

  async guessAt(cursor, free = false) {
    this.sheet.cursor = cursor;
    const { hand, picks } = this.sheet;
    try {
      const sizes = Object.fromEntries(
        this.sheet.sk.fields.filter((f) => f.name !== 'at' && f.value.trim()).map((f) => [f.name, f.value]),
      );
      /** @type {Wire.GuessAnswer} */
      const answer = await post(this.sheet.path('/guess'), {
        cursor,
        unit: this.sheet.drawing.unit,
        tool: hand,
        picks,
        sizes,
        woken: this.sheet.woken,
        free,
      });
      if (hand !== this.sheet.hand || picks.length !== this.sheet.picks.length || !this.sheet.tools[hand]) return;
      this.sheet.guess = answer;
      this._wake(answer.pick);
      this.sheet.drawing.trial(answer.preview, answer.guides, [answer.pick.x, answer.pick.y]);
      for (const field of this.sheet.sk.fields) if (field.name !== 'at') field.hint = answer.measures[field.name] || '';
      const measured = Object.entries(answer.measures).map(([name, value]) => `${name} ${value}`);
      this.sheet.pointer.showTag(
        [...measured, answer.words].filter(Boolean).join(' · '),
        ...this.sheet.drawing.px([answer.pick.x, answer.pick.y]),
      );
      this.sheet.sk.place = placed([answer.pick.x, answer.pick.y], this.sheet.unit);
      if (answer.refusal) this.sheet.tell(answer.refusal, { tone: 'fault' });
      else if (this.sheet.sk.tone) this.sheet.tool.prompt();
    } catch (problem) {
      if (problem instanceof Problem) this.sheet.tell(problem.message, { tone: 'fault' });
      else throw problem;
    }
  }

  // Points that the pointer has been on offer alignment for a while.
  _wake(pick) {
    const on = pick.snaps.find((snap) => ['coincident', 'midpoint'].includes(snap.type))?.on[0];
    if (on && on !== this.sheet.woken[0])
      this.sheet.woken = [on, ...this.sheet.woken.filter((id) => id !== on)].slice(0, 6);
  }

  async click(pick) {
    const tool = this.sheet.tools[this.sheet.hand];
    this.sheet.picks = [...this.sheet.picks, pick];
    if (this.sheet.picks.length < tool.clicks.length || tool.more) {
      this.sheet.tool.prompt();
      return;
    }
    await this.finish();
  }

  async finish() {
    const { hand, picks } = this.sheet;
    this.sheet.pointer.showTag('');
    const sizes = Object.fromEntries(
      this.sheet.sk.fields.filter((f) => f.name !== 'at' && f.value.trim()).map((f) => [f.name, f.value]),
    );
    const before = new Set(Object.keys(this.sheet.scene.points));
    const answer = await this.sheet.act({ do: 'draw', tool: hand, picks, sizes, construction: this.sheet.construct });
    this.sheet.drawing.trial([]);
    if (answer.refused) {
      this.sheet.picks = picks.slice(0, -1);
      return;
    }
    this.sheet.picks = [];
    for (const field of this.sheet.sk.fields) field.value = '';
    if (hand === 'line' || hand === 'tangent arc' || this.sheet.chain) this._goOn(answer, picks, before);
    if (this.sheet.hand === hand) this.sheet.tool.prompt();
    this.sheet.focusSheet();
  }

  // A chain goes on from its last end, unless that end was there before: then it is closed or joined.
  _goOn(answer, picks, before) {
    const made = this.sheet.entity(answer.made[0]);
    const start = picks[0].snaps.find((snap) => snap.type === 'coincident')?.on[0];
    const end =
      made?.ends.find((point) => point !== start && (made.ends[0] === start || point === made.ends[1])) ||
      made?.ends[1];
    if (!made || before.has(end)) {
      this.sheet.chain = false;
      if (this.sheet.hand !== 'line') this.sheet.tool.use('line');
      this.sheet.tell('the chain is joined; click to begin another');
      return;
    }
    const [x, y] = this.sheet.scene.points[end];
    this.sheet.tool.use('line');
    this.sheet.picks = [{ x, y, snaps: [{ type: 'coincident', on: [end] }] }];
    this.sheet.chain = true;
    this.sheet.tool.prompt();
  }

  // In a chain: from line to tangent arc, to free arc, and back.
  turn() {
    if (!this.sheet.picks.length || !['line', 'tangent arc', 'arc by three points'].includes(this.sheet.hand)) return;
    const start = this.sheet.picks[0];
    const order = ['line', 'tangent arc', 'arc by three points'];
    const next = order[(order.indexOf(this.sheet.hand) + 1) % 3];
    this.sheet.tool.use(next);
    this.sheet.picks = [start];
    this.sheet.chain = true;
    this.sheet.tool.prompt();
    if (this.sheet.cursor) this.guessAt(this.sheet.cursor);
  }

  // Enter: typed coordinates, or the place under the pointer with the typed sizes.
  async accept() {
    const at = this.sheet.tool.field('at');
    if (at) {
      const [x, y] = at.split(/[,;]\s*|\s+/).map(Number);
      if (!Number.isFinite(x) || !Number.isFinite(y)) {
        this.sheet.tell('type two numbers, such as 10, 5', { tone: 'fault' });
        return;
      }
      const scale = UNITS[this.sheet.unit] || 1;
      const place = [x * scale, y * scale];
      const same = Object.entries(this.sheet.scene.points).find(
        ([, p]) => Math.hypot(p[0] - place[0], p[1] - place[1]) < 1e-6,
      );
      this.sheet.sk.fields.find((field) => field.name === 'at').value = '';
      await this.click({ x: place[0], y: place[1], snaps: same ? [{ type: 'coincident', on: [same[0]] }] : [] });
      return;
    }
    const tool = this.sheet.tools[this.sheet.hand];
    if (tool?.more && this.sheet.picks.length >= 2) {
      await this.finish();
      return;
    }
    if (tool && this.sheet.guess && this.sheet.picks.length) await this.click(this.sheet.guess.pick);
  }
}
