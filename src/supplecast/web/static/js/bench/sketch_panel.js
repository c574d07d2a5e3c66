// What the page shows of the drawing sheet, and the buttons that belong to it.

/** @type {ThisType<any> & Record<string, any>} */
export const sketchPanel = {
  get frameRows() {
    return this.sk.on ? 'grid-rows-[64px_minmax(0,1fr)_92px]' : 'grid-rows-[64px_minmax(0,1fr)_40px]';
  },

  get skSay() {
    return this.sk.tone === 'fault' ? 'text-[#FFB9AC]' : '';
  },

  get skBelt() {
    return this.sk.belt.filter((slot) => slot.row === (this.sk.more ? 2 : 1));
  },

  get skFigures() {
    return this.sk.on && !this.sk.areas && this.sketcher.hand === 'figure';
  },

  draw(step) {
    this.stopPickingQuietly();
    return this.sketcher.open(step);
  },

  get skFile() {
    return this.sk.step ? `/api/documents/${this.id}/sketches/${this.sk.step}/file?format=dxf` : '';
  },

  get skFileSvg() {
    return this.skFile.replace('=dxf', '=svg');
  },

  skClose() {
    return this.sketcher.close();
  },

  skSlot(id) {
    this.sketcher.tool.slot(id);
  },

  skMore() {
    this.sk.more = !this.sk.more;
  },

  skChip(id) {
    this.sketcher.tool.chip(id);
  },

  skOffer() {
    this.sketcher.tool.takeOffer();
  },

  skTyped() {
    this.sketcher.tool.typed();
  },

  skFigure(kind) {
    return this.sketcher.tool.figure(kind);
  },

  skEdit(id) {
    this.sketcher.sizing.edit(id);
  },

  skDrive(id, driven) {
    this.sketcher.act({ do: 'drive', constraint: id, driven: !driven });
  },

  skDrop(ids) {
    this.sketcher.act({ do: 'erase', names: ids.split(' ') });
  },

  skChoose(id) {
    this.sketcher.choosing.choose(id, true);
  },

  skGap(index) {
    this.sketcher.choosing.closeGap(index);
  },

  skDone() {
    this.sketcher.choosing.doneAreas();
  },

  skCut() {
    this.sketcher.toggleCut();
  },

  skFit() {
    this.sketcher.fit();
  },

  skCurves() {
    this.sk.showCurves = !this.sk.showCurves;
  },
};
