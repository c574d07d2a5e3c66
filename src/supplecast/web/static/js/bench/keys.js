// Keys and clicks on the page itself.

import { figuresOf } from '../sketch/belt.js';
import { keyGroups } from './key_list.js';
import { askUnit } from './units.js';

const AHEAD = /^([-.,\d]|Enter)$/;

/** @type {ThisType<any> & Record<string, any>} */
export const keys = {
  // One level back: out of the innermost mode, else nothing picked any more, else to the end of the sheet.
  back() {
    if (this.modes.back()) return;
    if (this.walked) this.walkAway();
    if (this.handled) {
      this.handleStep(null);
      return;
    }
    if (this.chosen.length) {
      this.chosen = [];
      this.viewer.overlay.light([]);
      this.tell('Ready:', 'nothing picked');
    } else if (this.standing) this.stand(null);
  },

  get keyGroups() {
    return keyGroups(this.sk.on);
  },

  // The page of the handbook on what is at hand: the tool drawn with, the open gauge, the open step.
  get helpHere() {
    const { hand, tools } = this.sketcher;
    if (this.sk.on) return tools[hand] ? { href: `/handbook/drawing/${hand.replaceAll(' ', '-')}`, words: hand } : null;
    if (this.gaugePanel) return { href: this.gaugeHelp, words: this.gaugePanel.name };
    const link = this.sheet.querySelector('.step.is-open .step-tools a');
    return link && { href: link.href, words: link.closest('.step').dataset.label };
  },

  get gaugeHelp() {
    return `/handbook/gauge/${this.gaugeOpen}`;
  },

  get seekHref() {
    return `/handbook?seek=${encodeURIComponent(this.addText.trim())}`;
  },

  showKeys() {
    const here = this.helpHere;
    this.helpOn = here ? { href: here.href, words: `help on ${here.words}` } : { href: '', words: '' };
    this.keysOpen = true;
    this.modes.enter('keys', () => this.closeKeys());
  },

  closeKeys() {
    this.keysOpen = false;
    this.modes.end('keys');
  },

  listen() {
    // What one does oneself goes before what a page would do next: a new field takes the focus only if nobody has gone elsewhere.
    this.acts = 0;
    this.ahead = null; // keys of a number typed while its field is still to come
    for (const kind of ['pointerdown', 'keydown'])
      document.addEventListener(
        kind,
        (event) => {
          if (this.ahead && !event.target.closest('input, select, textarea') && AHEAD.test(event.key)) {
            this.ahead.push(event.key);
            event.preventDefault();
            event.stopPropagation();
          } else this.acts += 1;
        },
        { capture: true },
      );
    document.addEventListener('keydown', (event) => {
      const typing = event.target.closest('input, select, textarea');
      if (event.ctrlKey || event.metaKey) {
        if (
          event.key.toLowerCase() === 'z' &&
          !(typing && typing.dataset.kept !== undefined && typing.value !== typing.dataset.kept)
        ) {
          event.preventDefault();
          if (event.shiftKey) this.redo();
          else this.undo();
        }
        return;
      }
      if (this.keysOpen && event.key === 'Escape') {
        this.closeKeys();
        return;
      }
      if (this.sk.on) {
        if (event.key === 'Shift' && !typing) this.sk.more = true;
        if (this.sketcher.keys.key(event)) event.preventDefault();
        return;
      }
      if (event.key === 'Escape' && !typing) {
        this.back();
        return;
      }
      if (typing?.tagName === 'INPUT' && this.picking && event.key === 'ArrowDown') {
        this.viewer.canvas.focus(); // from the number that a new step has at hand to what it is for
        this.walk(1);
        event.preventDefault();
        return;
      }
      if (typing || event.altKey) return;
      const pressed = event.target.closest('button'); // the chip that is being filled keeps the focus: Enter does not open it anew
      if (this.picking && event.key === 'Enter' && (!pressed || pressed === this.chipOf())) {
        event.preventDefault();
        this.donePicking();
        return;
      }
      if (this.walksBy(event, pressed) && this.walkKey(event.key)) {
        pressed?.blur(); // else Space would press it
        event.preventDefault();
        return;
      }
      if (this.placing && !event.target.closest('button') && this.placeKey(event.key)) {
        event.preventDefault();
        return;
      }
      const act = {
        '/': () => {
          document.getElementById('add').focus();
        },
        '[': () => this.moveMarker(-1),
        ']': () => this.moveMarker(1),
        v: () => this.cycleMode(),
        s: () => this.toggleSection(),
        m: () => this.toggleMeasure(),
        f: () => this.fit(),
        n: () => this.nextOffender(),
        p: () => this.lastOffender(),
        h: () => {
          for (const body of new Set(this.chosen.map((item) => item.body))) this.toggleBody(body);
          this.chosen = [];
          this.viewer.overlay.light([]);
        },
        '?': () => this.showKeys(),
      }[event.key.length === 1 ? event.key.toLowerCase() : event.key];
      if (act) {
        event.preventDefault();
        act();
      }
    });
    document.addEventListener('keyup', (event) => {
      if (event.key === 'Shift' && this.sk.on) this.sk.more = this.sketcher.tool.slotRow() === 2;
    });
    document.addEventListener('click', (event) => {
      const add = event.target.closest('[data-add]');
      if (add) {
        this.add(add.dataset.add).catch((problem) => this.fail(problem));
        return;
      }
      const figure = event.target.closest('[data-figure]');
      if (figure) {
        this.edit({
          op: 'add figure',
          step: this.figureFor,
          figure: figuresOf(figure.dataset.figure, this.unit),
        });
        this.closeList();
        return;
      }
      const look = event.target.closest('[data-look]');
      if (look) this.viewer.look(look.dataset.look);
      if (
        (this.adding && !event.target.closest('#add')) ||
        (this.figureFor && !event.target.closest('[data-figure-for]'))
      )
        this.closeList();
    });
    document.getElementById('rosette').addEventListener('keydown', (event) => {
      if (event.key === 'Enter' || event.key === ' ') {
        event.preventDefault();
        this.viewer.look(event.target.dataset.look);
      }
    });
    document.getElementById('import').addEventListener('change', (event) => this.importFile(event.target));
    document.getElementById('view').addEventListener('dblclick', () => {
      if (!this.chosen.length) document.getElementById('add').focus();
    });
    document
      .querySelector('[data-unit-field]')
      .addEventListener('change', (event) => askUnit(this, event.target.value).catch((problem) => this.fail(problem)));
    for (const field of document.querySelectorAll('[data-document-field]')) {
      field.addEventListener('change', () => {
        if (!field.value.trim()) {
          field.value = field.dataset.kept;
          return;
        }
        field.dataset.kept = field.value;
        this.edit({ op: 'document', [field.dataset.documentField]: field.value });
      });
      field.addEventListener('keydown', (event) => {
        if (event.key === 'Enter') field.blur();
        if (event.key === 'Escape' && field.dataset.kept) {
          field.value = field.dataset.kept;
          field.blur();
        }
      });
    }
  },
};
