// What the page shows of the drawing sheet, and the buttons that belong to it.

/** @type {ThisType<any> & Record<string, any>} */
export const sketchPanel = {
  get frameRows() {
    return this.sk.on ? 'grid-rows-[64px_minmax(0,1fr)_minmax(92px,auto)]' : 'grid-rows-[64px_minmax(0,1fr)_40px]';
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

  async draw(step) {
    await this.keepPicks();
    return this.sketcher.open(step);
  },

  // The planes that the sheet offers for this sketch.
  planeList(step) {
    return this.sheet.querySelector(`select[data-step="${CSS.escape(step)}"][data-field="on"]`);
  },

  listPlanes(step) {
    this.sk.planes = [...(this.planeList(step)?.options || [])].map((option, index) => ({
      index: String(index),
      words: option.textContent.trim(),
      chosen: option.selected,
    }));
  },

  // Lay the sketch elsewhere; a flat face is picked in the view, and the drawing goes on afterwards.
  async skPlane(event) {
    const { step } = this.sk;
    const { set, pick } = this.planeList(step).options[Number(event.target.value)].dataset;
    if (pick) {
      await this.skClose();
      await this.startPicking({ step, field: 'on', ...JSON.parse(pick), then: () => this.redrawn(step) });
      return;
    }
    await this.edit({ op: 'set', step, field: 'on', value: JSON.parse(set) });
    await this.redrawn(step);
  },

  // Draw on after an edit, the lists as they are now.
  async redrawn(step) {
    await this.refreshSheet();
    await this.draw(step);
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
