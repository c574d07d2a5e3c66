// The strip of gauges, its panel, and measuring by hand.

/** @type {ThisType<any> & Record<string, any>} */
export const gaugesPanel = {
  get stripWords() {
    return !this.loaded ? 'building …' : this.judged.why || (this.judged.old ? 'judging …' : 'no body yet');
  },

  // Whether the gauges are of the last good shape, since a step does not build.
  get lastGood() {
    return this.strip.length > 0 && this.stale;
  },

  openGauge(id) {
    return this.gauges.open(id).catch((problem) => this.fail(problem));
  },

  closeGauge() {
    this.gauges.close();
  },

  turnStrip() {
    return this.gauges.turnStrip();
  },

  turnMap() {
    return this.gauges.turnOver().catch((problem) => this.fail(problem));
  },

  nextOffender() {
    this.gauges.step(1);
  },

  lastOffender() {
    this.gauges.step(-1);
  },

  toggleFigure(key) {
    this.figureOpen = this.figureOpen === key ? '' : key;
  },

  setPull(event) {
    return this.gauges.setPull(event.target.value).catch((problem) => this.fail(problem));
  },

  setTexture(event) {
    return this.edit({ op: 'document', texture: event.target.value.trim() || '0 mm' });
  },

  pickGate() {
    this.gauges.pickGate();
  },

  dropGate() {
    return this.edit({ op: 'document', gate: 'no gate' });
  },

  toggleMeasure() {
    if (this.measuring) this.measurer.stop();
    else {
      this.stopPickingQuietly();
      this.measurer.start();
    }
  },

  keepMeasure() {
    return this.measurer.keep();
  },

  clearMeasure() {
    this.measurer.clear();
  },
};
