// Keys on the drawing sheet.

import { BELT, HANDS } from './belt.js';

export class Keys {
  constructor(sheet) {
    this.sheet = sheet;
  }

  back() {
    this.sheet.sk.offer = '';
    if (this.sheet.tools[this.sheet.hand] && this.sheet.picks.length) {
      this.sheet.picks = this.sheet.chain ? [] : this.sheet.picks.slice(0, -1);
      this.sheet.chain = false;
      this.sheet.drawing.trial([]);
      this.sheet.tool.prompt();
      return;
    }
    if (this.sheet.hand === 'size' && this.sheet.names.length) {
      this.sheet.names = [];
      this.sheet.drawing.chosen.clear();
      this.sheet.drawing.trial([]);
      this.sheet.drawing.draw();
      this.sheet.tool.chips();
      this.sheet.tool.prompt();
      return;
    }
    if (this.sheet.hand !== 'choose') {
      this.sheet.drawing.chosen.clear();
      this.sheet.drawing.draw();
      this.sheet.list();
      this.sheet.tool.use('choose');
      return;
    }
    if (this.sheet.areas) {
      this.sheet.close();
      return;
    }
    if (this.sheet.drawing.chosen.size || this.sheet.drawing.clashing.size) {
      this.sheet.drawing.chosen.clear();
      this.sheet.drawing.clashing = new Set();
      this.sheet.drawing.draw();
      this.sheet.list();
      this.sheet.tool.chips();
      this.sheet.tool.prompt();
      return;
    }
    this.sheet.tell('nothing is chosen; Enter or Finish closes the sheet');
  }

  // What is shown on the sheet besides the outline.
  show(what, words) {
    const { drawing } = this.sheet;
    drawing[what] = !drawing[what];
    drawing.draw();
    this.sheet.tell(`${drawing[what] ? 'shown' : 'no longer shown'}: ${words}`);
  }

  // A tool in hand with which nothing is begun and nothing typed.
  idle() {
    return !this.sheet.picks.length && this.sheet.sk.fields.every((field) => !field.value.trim());
  }

  // True if the key was for the sheet.
  key(event) {
    const typing = event.target.offsetParent && event.target.closest?.('input, select, textarea');
    if (event.key === 'Escape') {
      if (typing) {
        typing.blur();
        this.sheet.focusSheet();
      }
      this.back();
      return true;
    }
    if (typing) {
      if (event.key === 'Enter' && typing.matches('.belt-field')) {
        if (this.sheet.tools[this.sheet.hand]) this.sheet.typing.accept();
        else if (HANDS[this.sheet.hand].build) this.sheet.tool.build();
        else this.sheet.focusSheet();
        return true;
      }
      return false;
    }
    if (event.key === 'Enter') {
      const option = event.target.closest?.('[data-option]');
      if (event.target.closest?.('button, a') && !option) return false;
      if (this.sheet.areas) this.sheet.choosing.doneAreas();
      else if (this.sheet.tools[this.sheet.hand] && this.idle()) this.sheet.close();
      else if (this.sheet.tools[this.sheet.hand]) this.sheet.typing.accept();
      else if (HANDS[this.sheet.hand].build) this.sheet.tool.build();
      else if (this.sheet.hand === 'choose' && !this.sheet.drawing.chosen.size) this.sheet.close();
      return true;
    }
    if (event.key === 'Delete' || event.key === 'Backspace') {
      this.sheet.choosing.erase();
      return true;
    }
    const elsewhere = event.target.closest?.('button, a');
    if (event.key === 'Tab' && !event.shiftKey && !elsewhere && this.sheet.tools[this.sheet.hand]) {
      return Boolean(this.sheet.typing.focus(this.sheet.picks.length ? this.sheet.typing.waiting() : 'at'));
    }
    const digit = /^Digit(\d)$/.exec(event.code)?.[1] ?? (/^\d$/.test(event.key) ? event.key : null);
    // Digits choose tools only while no number is awaited.
    const awaited = this.sheet.sk.fields.some((field) => field.wait);
    if (awaited && !event.shiftKey && (digit !== null || /^[-.,(]$/.test(event.key))) {
      this.sheet.typing.into(event.key);
      return true;
    }
    if (digit !== null && !this.sheet.areas) {
      const slot = BELT.find((entry) => entry.key === digit && entry.row === (event.shiftKey ? 2 : 1));
      if (slot) this.sheet.tool.slot(slot.id);
      return true;
    }
    const letter = event.key.length === 1 ? event.key.toLowerCase() : '';
    const constraint =
      this.sheet.drawing.chosen.size && this.sheet.choosing.possible().find((entry) => entry.key === letter);
    if (constraint) {
      this.sheet.choosing.hold(constraint.id);
      return true;
    }
    const act = {
      a: () => this.sheet.laying.turn(),
      b: () => this.sheet.choosing.otherWay(),
      g: () => this.sheet.choosing.toggleConstruction(),
      f: () => this.sheet.fit(),
      w: () => this.sheet.fit(),
      c: () => this.sheet.toggleCut(),
      d: () => this.show('showWays', 'the ways in which what is loose can move'),
      t: () => this.show('showTags', 'the tags of all that is held'),
      l: () => this.show('bare', 'the outline alone, without sizes, tags and arrows'),
      '?': () => this.sheet.bench.showKeys(),
    }[letter];
    if (act) act();
    return Boolean(act) || '[]/vsh'.includes(letter || 'none');
  }
}
