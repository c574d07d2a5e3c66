// Sizes: put on what is clicked, and typed where they stand.

export class Sizing {
  constructor(sheet) {
    this.sheet = sheet;
  }

  kinds() {
    const types = this.sheet.names.map((id) => this.sheet.entity(id)?.type || 'point');
    const round = types.some((type) => type === 'arc' || type === 'circle');
    if (types.length === 1)
      return (
        {
          line: ['aligned', 'across', 'up'],
          circle: ['diameter', 'radius'],
          arc: ['radius', 'diameter', 'arc length'],
        }[types[0]] || []
      );
    if (round) return ['centre', 'near', 'far'];
    return types.includes('line') && types.includes('point')
      ? ['length', 'axis']
      : types.every((type) => type === 'point')
        ? ['aligned', 'across', 'up']
        : [];
  }

  sizeAct(place, extra = {}) {
    const kind = this.sheet.kind === 'length' ? '' : this.sheet.kind;
    return { do: 'size', on: this.sheet.names, label: place, kind, ...extra };
  }

  async sizeClick(hit, place) {
    const id = hit && (hit.point || hit.curve);
    if (id && this.sheet.names.length < 2 && !this.sheet.names.includes(id)) {
      this.sheet.names = [...this.sheet.names, id];
      this.sheet.drawing.chosen = new Set(this.sheet.names);
      this.sheet.drawing.draw();
      this.sheet.tool.chips();
      this.sheet.tell(
        this.sheet.names.length === 1
          ? 'click a second thing, or an empty place for the label'
          : 'click where the label is to stand',
      );
      return;
    }
    if (!this.sheet.names.length) {
      this.sheet.tell('click a point, a line or a round first');
      return;
    }
    const act = this.sizeAct(place);
    await this.putSize(act);
  }

  async putSize(act) {
    const answer = await this.sheet.act(act);
    this.sheet.drawing.trial([]);
    if (answer.refused) {
      this.sheet.names = []; // what is offered stays until something else is picked
      if (answer.refused.drive) this.sheet.sk.offer = 'Keep it as a driven size';
      this.sheet.onOffer = () => this.putSize({ ...act, driven: true });
      return;
    }
    this.sheet.names = [];
    this.sheet.drawing.chosen.clear();
    this.sheet.kind = '';
    this.sheet.drawing.draw();
    this.sheet.tool.chips();
    this.sheet.tool.prompt();
    if (!act.driven) this.edit(answer.made.at(-1), true);
  }

  // Type the value of a size where it stands.
  edit(id, fresh = false) {
    const size = this.sheet.scene.sizes.find((one) => one.id === id);
    if (!size || size.driven) return;
    this.sheet.editing = id;
    this.fresh = fresh;
    this.sheet.input.hidden = false;
    this.sheet.input.value = size.value;
    this.sheet.input.classList.remove('is-wrong');
    this.placeInput();
    this.sheet.input.focus();
    this.sheet.input.select();
    const leaves = fresh ? 'Esc takes the size away' : 'Esc leaves it';
    this.sheet.tell(`type the value or an expression; Enter keeps it, ${leaves}`, { lead: 'Size:' });
  }

  placeInput() {
    if (this.sheet.input.hidden) return;
    const size = this.sheet.scene.sizes.find((one) => one.id === this.sheet.editing);
    if (!size) {
      this.sheet.input.hidden = true;
      return;
    }
    const [x, y] = this.sheet.drawing.stands.get(size.id) || this.sheet.drawing.px(size.at);
    Object.assign(this.sheet.input.style, { left: `${x}px`, top: `${y}px` });
  }

  async keepSize() {
    const value = this.sheet.input.value.trim();
    const size = this.sheet.scene.sizes.find((one) => one.id === this.sheet.editing);
    if (!value || !size || value === size.value) {
      this.endEdit();
      return;
    }
    const answer = await this.sheet.act({ do: 'retype', constraint: this.sheet.editing, value });
    if (answer.refused) {
      this.sheet.input.classList.add('is-wrong');
      return;
    }
    this.endEdit();
    this.sheet.tell(`${size.title} is ${value}`);
  }

  // Escape: a size that was just put there goes again, one that was there stays as it is.
  async leave() {
    const { fresh } = this;
    this.endEdit();
    if (fresh) await this.sheet.travel('undo');
  }

  endEdit() {
    this.fresh = false;
    this.sheet.input.hidden = true;
    this.sheet.editing = null;
    this.sheet.drawing.clashing = new Set();
    this.sheet.drawing.draw();
    this.sheet.list();
    this.sheet.tool.prompt();
    this.sheet.focusSheet();
  }
}
