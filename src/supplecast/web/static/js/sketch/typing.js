// Numbers typed while drawing. One rule: the field that waits takes what is typed; Enter takes it and goes to the next that is
// needed; what is not typed comes from the pointer, if it has moved since; nothing is dropped without a word.

import { Problem, post } from '../api.js';

const PLACE = /^[^;()]+(;|,\s)[^;()]+$/;

export class Typing {
  constructor(sheet) {
    this.sheet = sheet;
    this.moved = false; // the pointer, since something was typed or clicked
    this.places = false; // places are typed: the next is waited for as such
  }

  get tool() {
    return this.sheet.tools[this.sheet.hand];
  }

  // The sizes that may stand for a click, and whether they are typed.
  sizes(click = this.sheet.picks.length) {
    const { tool } = this;
    return tool.sizes
      .map((name, i) => ({ name, click: tool.asks[i], aimed: tool.aimed.includes(name), value: this.text(name) }))
      .filter((size) => size.click === Math.min(click, tool.clicks.length - 1));
  }

  text(name) {
    return this.sheet.tool.field(name);
  }

  // The field that what is typed goes into.
  waiting() {
    if (!this.tool) return this.sheet.sk.fields[0]?.name;
    const chained = ['Line', 'Spline'].includes(this.tool.family);
    if (this.places && chained && !this.sizes().some((size) => size.value)) return 'at';
    const open = this.sizes().find((size) => !size.value);
    return open?.name || this.sizes()[0]?.name || 'at';
  }

  mark() {
    const { sk, hand } = this.sheet;
    const awaited = this.tool ? this.sheet.picks.length > 0 : Boolean(sk.fields.length && hand !== 'photo');
    const name = awaited ? this.waiting() : '';
    for (const field of sk.fields) {
      field.wait = field.name === name;
      field.look = `${field.wide} ${field.wait ? 'is-waiting' : ''}`;
    }
  }

  // What the foot says of numbers at this point.
  words() {
    const { picks } = this.sheet;
    if (!picks.length) return ', or Tab and type x, y';
    const names = this.sizes().map((size) => size.name);
    return names.length ? `, or type the ${names.join(' and the ')}` : '';
  }

  focus(name) {
    const fields = [...document.querySelectorAll('#belt-options .belt-field')];
    const field = fields.find((one) => one.getAttribute('aria-label') === name);
    if (!field) return null;
    field.focus();
    field.select();
    return field;
  }

  // A key typed while the sheet has the focus goes into the field that waits.
  into(text) {
    const field = this.focus(this.waiting());
    if (!field) return;
    field.value = text;
    field.dispatchEvent(new Event('input', { bubbles: true }));
  }

  // The tool, or a click, has changed: what was typed for a place is used up.
  begin() {
    this.moved = false;
    this.mark();
  }

  clicked(typed) {
    this.places = typed;
    this.begin();
  }

  // Enter.
  async accept() {
    this._placeElsewhere();
    if (this.text('at')) {
      await this._place();
      return;
    }
    const { tool } = this;
    const { picks } = this.sheet;
    if (tool.more && picks.length >= 2) {
      await this.sheet.laying.finish();
      return;
    }
    if (!picks.length) {
      this.focus('at');
      this.sheet.tell(`click ${tool.clicks[0]} first, or type its place as x, y`, { tone: 'fault' });
      return;
    }
    const open = this.sizes().filter((size) => !size.value && !(size.aimed && this._aimed()));
    const typed = this.sizes().some((size) => size.value);
    if (open.length && !(this.moved && this.sheet.guess)) {
      this.focus(open[0].name);
      const others = typed ? '' : ' or x, y';
      this.sheet.tell(`type the ${open[0].name}${others}, or move the pointer there`, { tone: typed ? '' : 'fault' });
      return;
    }
    const pick = this._aimed() ? await this.sheet.model.real(this.sheet.guess) : this._apart();
    if (!pick) {
      this.focus('at');
      this.sheet.tell(`click ${tool.clicks[picks.length]}, or type its place as x, y`, { tone: 'fault' });
      return;
    }
    await this._take(pick, false);
  }

  // A place typed where a size is waited for is a place all the same.
  _placeElsewhere() {
    const { fields } = this.sheet.sk;
    const place = fields.find((field) => field.name !== 'at' && PLACE.test(field.value));
    if (!place) return;
    fields.find((field) => field.name === 'at').value = place.value;
    place.value = '';
  }

  // Whether the pointer has said anything since the last click.
  _aimed() {
    return Boolean(this.sheet.guess);
  }

  // Without the pointer: onwards to the right, or to the right and up, far enough to see which way.
  _apart() {
    const { picks } = this.sheet;
    if (!this.sizes().length) return null;
    const reach = 40 * this.sheet.drawing.unit;
    const last = picks.at(-1);
    const up = picks.length > 1 || (this.tool.family === 'Rectangle' && this.tool.clicks.length < 3);
    const along = picks.length > 1 ? 0 : 1;
    return { x: last.x + along * reach, y: last.y + (up ? reach : 0), snaps: [] };
  }

  async _place() {
    const text = this.text('at');
    const parts = text.includes(';') ? text.split(';') : /\S\s+\S/.test(text) ? text.split(/,?\s+/) : text.split(',');
    const typed = parts.map((part) => part.trim()).filter(Boolean);
    if (typed.length !== 2) {
      this.sheet.tell(`“${text}” is no place: type two numbers, such as 10, 5`, { tone: 'fault' });
      return;
    }
    const asked = { x: 0, y: 0, typed, snaps: [] };
    try {
      /** @type {Wire.GuessAnswer} */
      const answer = await post(this.sheet.path('/guess'), {
        cursor: [0, 0],
        unit: this.sheet.drawing.unit,
        free: true,
        typed,
      });
      if (answer.refusal) {
        this.sheet.tell(answer.refusal, { tone: 'fault' });
        return;
      }
      const { x, y } = answer.pick;
      const same = Object.entries(this.sheet.scene.points).find(([, p]) => Math.hypot(p[0] - x, p[1] - y) < 1e-6);
      const snaps = same ? [{ type: 'coincident', on: [same[0]] }] : [];
      this.sheet.sk.fields.find((field) => field.name === 'at').value = '';
      await this._take({ ...asked, x, y, snaps }, true);
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      this.sheet.tell([problem.message, problem.hint].filter(Boolean).join(' '), { tone: 'fault' });
    }
  }

  // A pick by keys: then the next field has the focus, so that one can type on.
  async _take(pick, place) {
    const { hand } = this.sheet;
    const before = this.sheet.picks.length;
    await this.sheet.laying.click(pick, place);
    if (this.sheet.hand !== hand || this.sheet.picks.length === 0) return;
    if (this.sheet.picks.length !== before || place) this.focus(this.waiting());
  }
}
