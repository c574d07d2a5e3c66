// The tool in hand: which one it is, its sizes and choices, and what it asks for next.

import { call, post } from '../api.js';
import { preset } from '../numbers.js';
import { BELT, HANDS, figuresOf, shortOf } from './belt.js';

export class ToolInHand {
  constructor(sheet) {
    this.sheet = sheet;
  }

  use(hand) {
    this.sheet.hand = hand;
    this.sheet.pointer.showTag('');
    this.sheet.picks = [];
    this.sheet.names = [];
    this.sheet.sizes = {};
    this.sheet.guess = null;
    this.sheet.cursor = null;
    this.sheet.spots = null;
    this.sheet.kind = '';
    this.sheet.drawing.trial([]);
    this.sheet.drawing.stroke(null);
    const tool = this.sheet.tools[hand];
    this.sheet.svg.classList.toggle('is-choosing', !tool);
    this.sheet.svg.classList.toggle('is-drawing', Boolean(tool));
    this.sheet.sk.empty = hand === 'choose' && !this.sheet.scene.entities.length;
    this.sheet.sk.belt = (this.sheet.areas ? [] : BELT).map((slot) => ({
      ...slot,
      state: slot.hands.includes(hand) ? 'is-on' : '',
      row: slot.row,
    }));
    this.fields();
    this.chips();
    this.sheet.typing.clicked(false);
    this.prompt();
  }

  // A slot of the belt: taken again it goes to its next variant.
  slot(id) {
    const slot = BELT.find((one) => one.id === id);
    const at = slot.hands.indexOf(this.sheet.hand);
    this.sheet.sk.more = slot.row === 2;
    this.use(slot.hands[(at + 1) % slot.hands.length]);
  }

  slotRow() {
    return BELT.find((entry) => entry.hands.includes(this.sheet.hand))?.row || 1;
  }

  fields() {
    const tool = this.sheet.tools[this.sheet.hand];
    const own = tool
      ? tool.sizes.map((name) => ({ name, value: '', hint: '', wide: '', wait: false, look: '' }))
      : (HANDS[this.sheet.hand].fields || []).map(({ mm, ...field }) => ({
          hint: '',
          wide: '',
          wait: false,
          look: '',
          ...(mm === undefined ? {} : { value: preset(mm, this.sheet.unit) }),
          ...field,
        }));
    if (tool) own.push({ name: 'at', value: '', hint: 'x, y', wide: 'is-wide', wait: false, look: '' });
    this.sheet.options = { ...(HANDS[this.sheet.hand]?.options || {}) };
    this.sheet.sk.fields = own;
  }

  field(name) {
    return (this.sheet.sk.fields.find((field) => field.name === name)?.value || '').trim();
  }

  prompt() {
    const tool = this.sheet.tools[this.sheet.hand];
    if (tool) {
      const click = tool.clicks[Math.min(this.sheet.picks.length, tool.clicks.length - 1)];
      const done = tool.more && this.sheet.picks.length >= 2 ? '; Enter or a double click ends it' : '';
      const chain =
        this.sheet.hand === 'line' && this.sheet.picks.length ? '; A turns into an arc, Esc ends the chain' : '';
      this.sheet.tell(`click ${click}${this.sheet.typing.words()}${done}${chain}`, {
        lead: `${this.sheet.hand[0].toUpperCase()}${this.sheet.hand.slice(1)}:`,
      });
    } else
      this.sheet.tell(
        this.sheet.areas
          ? 'click areas to pick or unpick them; Done keeps them, Esc leaves them as they were'
          : HANDS[this.sheet.hand].say,
        { lead: this.sheet.areas ? 'Areas:' : HANDS[this.sheet.hand].lead },
      );
  }

  chips() {
    if (!this.sheet.sk.on) return;
    const chips = [];
    const chip = (id, words, on = false) =>
      chips.push({ id, words, state: on ? 'is-on' : '', option: id.startsWith('option:') ? 'yes' : null });
    const slot = BELT.find((entry) => entry.hands.includes(this.sheet.hand));
    if (this.sheet.areas) {
      /* areas are picked in the view */
    } else if (slot && slot.hands.length > 1 && this.sheet.hand !== 'photo')
      // a photo has choices enough of its own
      for (const hand of slot.hands) chip(`hand:${hand}`, shortOf(hand), hand === this.sheet.hand);
    if (this.sheet.hand === 'choose' || this.sheet.hand === 'fix')
      for (const { id, words } of this.sheet.choosing.possible()) chip(`hold:${id}`, words);
    if (this.sheet.choosing.twoWays()) chip('way:other', 'other way B');
    for (const [option, choices] of Object.entries(HANDS[this.sheet.hand]?.choices || {}))
      for (const choice of choices.filter((one) => one !== (this.sheet.bringing.photo?.locked ? 'lock' : 'unlock')))
        chip(`option:${option}:${choice}`, choice, this.sheet.options[option] === choice);
    if (this.sheet.hand === 'size' && this.sheet.names.length)
      for (const kind of this.sheet.sizing.kinds()) chip(`kind:${kind}`, kind, this.sheet.kind === kind);
    if (HANDS[this.sheet.hand]?.build) chip('do', 'do it');
    this.sheet.sk.chips = chips;
  }

  chip(id) {
    const [what, first, second] = id.split(':');
    if (what === 'hand') this.use(first);
    if (what === 'hold') this.sheet.choosing.hold(first);
    if (what === 'way') this.sheet.choosing.otherWay();
    if (what === 'option' && second === 'find the outline') {
      this.sheet.bringing.trace();
      return;
    }
    if (what === 'option' && first === 'photo') {
      if (!this.sheet.bringing.photo)
        this.sheet.tell('bring in a photo first: the panel at the right does', { tone: 'fault' });
      else
        this.sheet.act(
          second === 'remove'
            ? { do: 'remove photo', name: this.sheet.bringing.photo.id }
            : { do: 'set photo', name: this.sheet.bringing.photo.id, locked: second === 'lock' },
        );
      return;
    }
    if (what === 'option') {
      this.sheet.options[first] = this.sheet.options[first] === second && second === 'copy' ? '' : second;
      this.chips();
      this.preview();
    }
    if (what === 'kind') {
      this.sheet.kind = this.sheet.kind === first ? '' : first;
      this.chips();
    }
    if (what === 'do') this.build();
  }

  takeOffer() {
    const next = this.sheet.onOffer;
    this.sheet.sk.offer = '';
    if (next) next();
  }

  args() {
    return {
      names: this.sheet.choosing.chosenCurves(),
      points: [...this.sheet.drawing.chosen].filter((id) => this.sheet.scene.points[id]),
      field: (name) => this.field(name),
      options: this.sheet.options,
      sketcher: this.sheet,
    };
  }

  preview() {
    const make = HANDS[this.sheet.hand]?.build;
    if (!make) return;
    const acts = make(this.args());
    if (acts) this.sheet.tryOut(acts);
    else this.sheet.drawing.trial([]);
  }

  async build() {
    const acts = HANDS[this.sheet.hand].build(this.args());
    if (!acts) {
      const nothing = this.args().names.length ? '' : 'nothing is chosen yet: ';
      this.sheet.tell(`${nothing}${HANDS[this.sheet.hand].say}`, { tone: 'fault' });
      return;
    }
    const answer = await this.sheet.act(...acts);
    this.sheet.drawing.trial([]);
    if (answer.refused) return;
    this.sheet.drawing.chosen.clear();
    this.sheet.drawing.draw();
    this.sheet.list();
    this.chips();
    if (!answer.words) this.sheet.tell('done; choose more, or Esc');
  }

  async figure(kind) {
    const job = this.sheet.queue.then(async () => {
      try {
        const answer = await post(`/api/documents/${this.sheet.bench.id}/edits`, {
          base: this.sheet.bench.revision,
          edit: { op: 'add figure', step: this.sheet.step, figure: figuresOf(kind, this.sheet.unit) },
        });
        this.sheet.bench.take(answer);
        this.sheet.take((await call(this.sheet.path())).scene);
        this.sheet.fit();
      } catch (problem) {
        this.sheet.fail(problem);
      }
    });
    this.sheet.queue = job.catch(() => {});
    await job;
  }

  typed() {
    this.sheet.typing.moved = false;
    this.sheet.typing.mark();
    if (this.sheet.tools[this.sheet.hand]) {
      if (this.sheet.cursor) this.sheet.laying.guessAt(this.sheet.cursor);
    } else this.preview();
  }
}
