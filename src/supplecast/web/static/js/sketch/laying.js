// Drawing with a tool, click by click: what the pointer means on the way, typed places, chains that go on.

import { inUnit, placed } from '../numbers.js';
import { shortOf } from './belt.js';
import { Problem, post } from '../api.js';

export class Laying {
  constructor(sheet) {
    this.sheet = sheet;
  }

  async aim(event) {
    this.sheet.aimed = { px: event.offsetX, py: event.offsetY, free: event.altKey };
    if (this.sheet.aiming) return;
    this.sheet.aiming = true;
    while (this.sheet.aimed) {
      this.sheet.typing.moved = true;
      const { px, py, free } = this.sheet.aimed;
      this.sheet.aimed = null;
      await this.guessAt(this.sheet.drawing.mm(px, py), free);
    }
    this.sheet.aiming = false;
  }

  // What a place is taken for: shown where nothing newer was asked, and given to a click whatever was asked meanwhile.
  async guessAt(cursor, free = false) {
    this.sheet.cursor = cursor;
    const { hand, picks } = this.sheet;
    const tool = this.sheet.tools[hand];
    if (tool && !tool.more && picks.length >= tool.clicks.length) return null; // what was clicked is being drawn
    const asked = (this.asked = (this.asked || 0) + 1);
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
        ghosts: this.sheet.model.jobs,
      });
      if (hand !== this.sheet.hand || picks.length !== this.sheet.picks.length || !this.sheet.tools[hand]) return null;
      if (asked !== this.asked) return answer;
      this.sheet.guess = answer;
      this._wake(answer.pick);
      this.sheet.drawing.trial(answer.preview, this._guides(answer, picks.at(-1)), [answer.pick.x, answer.pick.y]);
      for (const field of this.sheet.sk.fields) if (field.name !== 'at') field.hint = answer.measures[field.name] || '';
      const measured = Object.entries(answer.measures).map(([name, value]) => `${name} ${value}`);
      this.sheet.pointer.showTag(
        [this.sheet.chain && hand !== 'line' ? shortOf(hand) : '', ...measured, answer.words]
          .filter(Boolean)
          .join(' · '),
        ...this.sheet.drawing.px([answer.pick.x, answer.pick.y]),
      );
      this.sheet.sk.place = placed([answer.pick.x, answer.pick.y], this.sheet.unit);
      if (answer.refusal) this.sheet.tell(answer.refusal, { tone: 'fault' });
      else if (this.sheet.sk.tone) this.sheet.tool.prompt();
      return answer;
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      this.sheet.tell(problem.message, { tone: 'fault' });
      return null;
    }
  }

  // Guides from other points tell how far those are.
  _guides({ guides }, last) {
    const { unit } = this.sheet;
    const own = ({ a }) => last && Math.hypot(a[0] - last.x, a[1] - last.y) < 1e-6;
    const far = ({ a, b }) => inUnit(Math.hypot(b[0] - a[0], b[1] - a[1]), unit);
    return guides.map((guide) => ({ ...guide, words: own(guide) ? '' : far(guide) }));
  }

  // Points that the pointer has been on offer alignment for a while.
  _wake(pick) {
    const on = pick.snaps.find((snap) => ['coincident', 'midpoint'].includes(snap.type))?.on[0];
    if (on && on !== this.sheet.woken[0])
      this.sheet.woken = [on, ...this.sheet.woken.filter((id) => id !== on)].slice(0, 6);
  }

  // Clicks are laid one after the other: a quick second one is guessed from where the first has led.
  clickAt(place, free) {
    this.clicked = this.laid().then(async () => {
      if (!this.sheet.tools[this.sheet.hand]) return;
      const guess = await this.guessAt(place, free);
      if (guess) await this.click(await this.sheet.model.real(guess));
    });
    return this.clicked;
  }

  // Until the last click is laid; what went wrong with it was told where it was clicked.
  laid() {
    return (this.clicked || Promise.resolve()).catch(() => {});
  }

  async click(pick, typed = false) {
    const tool = this.sheet.tools[this.sheet.hand];
    this.sheet.picks = [...this.sheet.picks, pick];
    this.sheet.guess = null;
    this.asked += 1; // what is asked for the click before comes too late
    this.sheet.typing.clicked(typed);
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
      this.sheet.typing.begin();
      return;
    }
    this.sheet.picks = [];
    for (const field of this.sheet.sk.fields) field.value = '';
    if (hand === 'line' || hand === 'tangent arc' || this.sheet.chain) this._goOn(answer, picks, before);
    if (this.sheet.hand === hand) this.sheet.tool.prompt();
    this.sheet.typing.mark();
    if (this.sheet.typing.places && this.sheet.picks.length) this.sheet.typing.focus('at');
    else this.sheet.focusSheet();
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
    const { places } = this.sheet.typing;
    this.sheet.tool.use('line');
    this.sheet.typing.places = places;
    this.sheet.picks = [{ x, y, snaps: [{ type: 'coincident', on: [end] }] }];
    this.sheet.chain = true;
    this.sheet.tool.prompt();
  }

  // In a chain: from line to tangent arc, to free arc, and back.
  turn() {
    if (!this.sheet.picks.length || !['line', 'tangent arc', 'arc by three points'].includes(this.sheet.hand)) return;
    const start = this.sheet.picks[0];
    const order = ['line', 'tangent arc', 'arc by three points'];
    const { places } = this.sheet.typing;
    const next = order[(order.indexOf(this.sheet.hand) + 1) % 3];
    this.sheet.tool.use(next);
    this.sheet.picks = [start];
    this.sheet.chain = true;
    this.sheet.typing.clicked(places);
    this.sheet.tool.prompt();
    if (this.sheet.cursor) this.guessAt(this.sheet.cursor);
  }
}
