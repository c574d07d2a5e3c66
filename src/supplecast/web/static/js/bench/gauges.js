// The gauges of a part: asked for after every build, shown in the strip, opened to paint the model and to go through the offenders.

import { Paint, bandAt } from '../view/paint.js';
import { finished, post } from '../api.js';
import { exactly, fixed, inUnit } from '../numbers.js';
import { crossAt } from '../view/strokes.js';

const MARKS = { fault: '✕ ', doubt: '! ', good: '', none: '' };

export class Gauges {
  constructor(bench) {
    this.__v_skip = true;
    this.bench = bench;
    this.paint = new Paint(bench.viewer);
    bench.viewer.paint = this.paint;
    /** @type {Wire.Gauges} */
    this.result = null;
    this.serial = 0;
    this.at = 0;
    this.every = false; // whether what is not molded is judged all the same
    bench.viewer.canvas.addEventListener('pointermove', (event) => this._hover(event));
  }

  // Judge what is shown; until the answer comes the old gauges stand, marked as old.
  async ask() {
    const { bench } = this;
    const serial = (this.serial += 1);
    bench.judged = { old: true, why: '', seen: bench.judged.seen };
    this._strip();
    try {
      /** @type {Wire.GaugesStarted_Gauges} */
      const answer = await post(bench.path('gauges'), { upto: bench.standing, every: this.every });
      const job = await finished(
        answer.job,
        () => {},
        () => serial !== this.serial,
      );
      if (serial !== this.serial) return;
      if (job.state !== 'done') {
        const why = job.state === 'cancelled' ? '' : [job.message, job.hint].filter(Boolean).join(' ');
        bench.judged = { old: true, why };
        this._strip();
        if (why) bench.tell('Not judged:', why, 'fault');
        return;
      }
      this.result = job.result;
      bench.judged = { old: false, why: job.result.why };
      this._strip();
      await bench.readLesson();
      if (bench.gaugeOpen) await this.open(bench.gaugeOpen, true);
    } catch (problem) {
      bench.fail(problem);
    }
  }

  // The gauges as they were last seen, until the answer comes.
  foresee(gauges) {
    this.result = gauges;
    this.bench.judged = { old: true, why: '', seen: true };
    this._strip();
  }

  // All gauges of what is not molded, or only what it is.
  turnStrip() {
    this.every = !this.every;
    this.close();
    return this.ask();
  }

  gauge(id) {
    return this.result?.gauges.find((gauge) => gauge.id === id);
  }

  _strip() {
    const { bench } = this;
    const of = bench.judged.seen ? 'as last seen' : 'of the shape before';
    const old = bench.judged.old ? ` (${of}; ${bench.judged.why || 'judging goes on'})` : '';
    bench.shortStrip = this.result?.short ? 'as if molded' : this.every ? 'not molded' : '';
    bench.strip = (this.result?.gauges || []).map((gauge) => ({
      ...gauge,
      unit: /^[°×]?$/.test(gauge.unit) ? gauge.unit : ` ${gauge.unit}`,
      verdict: `${MARKS[gauge.state]}${gauge.verdict}`,
      look: [`is-${gauge.state}`, bench.judged.old ? 'is-old' : '', bench.gaugeOpen === gauge.id ? 'is-on' : ''].join(
        ' ',
      ),
      bandStyle: gauge.bar
        ? { left: `${gauge.bar.low * 100}%`, width: `${(gauge.bar.high - gauge.bar.low) * 100}%` }
        : {},
      atStyle: gauge.bar ? { left: `calc(${gauge.bar.at * 100}% - 1px)` } : {},
      title: `${gauge.name}: ${gauge.value} ${gauge.unit}, ${gauge.verdict}${old}`,
    }));
  }

  // Open a gauge: paint its map and list what is behind it. Opened again, it closes.
  async open(id, again = false) {
    const { bench } = this;
    if (!again && bench.gaugeOpen === id) {
      this.close();
      return;
    }
    const gauge = this.gauge(id);
    if (!gauge) {
      this.close();
      return;
    }
    const fresh = bench.gaugeOpen !== id;
    bench.gaugeOpen = id;
    bench.modes.enter('gauge', () => this.close());
    bench.viewer.setMode(id === 'gaps' && gauge.offenders.length ? 'see-through' : bench.mode); // they lie inside others
    this._clear();
    if (fresh) {
      this.at = -1;
      this.byOther = false;
      bench.viewer.overlay.light([]);
      bench.viewer.overlay.setLines([]);
    }
    bench.gaugePanel = {
      ...gauge,
      bands: gauge.bands.map((band) => ({ ...band, swatch: `paint-${band.paint}` })),
      count: gauge.offenders.length,
      figures: gauge.figures.map((figure, index) => ({
        ...figure,
        key: `${id}${index}`,
        from: [figure.formula, figure.source].filter(Boolean).join(' · '),
      })),
      otherWords: gauge.other_map ? (this.byOther ? 'by the largest ball' : 'straight through, by rays') : '',
      pulls: ['draft', 'undercut', 'clamp'].includes(id),
    };
    this._offender();
    this._strip();
    bench.pullWay = bench.pullWay || document.getElementById('bench').dataset.pull;
    bench.viewer.overlay.setTraces(this._traces(id));
    if (gauge.map) await this.paint.show(this.result.skins, this.byOther ? gauge.other_map : gauge.map, gauge.bands);
    else this.paint.hide();
    if (fresh)
      bench.tell(
        `${gauge.name}:`,
        gauge.offenders.length
          ? `${gauge.verdict}; N goes to the next place, P back; Esc closes`
          : `${gauge.verdict}; Esc closes`,
      );
  }

  // The bodies that are seen alone while a gauge is open: what coolant does is painted on parts inside the steel.
  alone() {
    const skins = this.bench.gaugeOpen === 'heat' ? this.result.skins : [];
    return new Set(skins.filter((skin) => skin.maps.heat).map((skin) => skin.body));
  }

  // Hide what stands before the open gauge's map, and close the tool for it; afterwards all is as it was.
  _clear() {
    const { bench } = this;
    if (!bench.result) return;
    bench.viewer.hidden = bench.hiddenBodies(bench.result.bodies);
    bench.viewer.stroke = this.alone().size ? 0 : Number(bench.stroke);
    bench.viewer.restyle();
  }

  // Lines that belong to a gauge's map: where faces turn over, the coolant bores, or the gate.
  _traces(id) {
    if (['draft', 'undercut', 'heat'].includes(id)) return this.result.skins.flatMap((skin) => skin.traces);
    return id === 'flow' && this.result.gate ? crossAt(this.result.gate, this.bench.viewer.reach() * 0.04) : [];
  }

  close() {
    this.bench.modes.end('gauge');
    const { bench } = this;
    bench.gaugeOpen = '';
    bench.gaugePanel = null;
    bench.viewer.setMode(bench.mode);
    this._clear();
    this.paint.hide();
    bench.viewer.overlay.light([]);
    bench.viewer.overlay.setLines([]);
    bench.viewer.overlay.setTraces([]);
    this._strip();
    bench.tell('Ready:', 'the map is put away');
  }

  // Paint the other map of the open gauge, or the first one again.
  async turnOver() {
    this.byOther = !this.byOther;
    await this.open(this.bench.gaugeOpen, true);
  }

  step(by) {
    const gauge = this.gauge(this.bench.gaugeOpen);
    if (!gauge?.offenders.length) return;
    const count = gauge.offenders.length;
    this.at = this.at < 0 ? (by > 0 ? 0 : count - 1) : (this.at + by + count) % count;
    const offender = gauge.offenders[this.at];
    this._offender();
    const skin = this.result.skins.find((one) => one.body === offender.body);
    const { viewer } = this.bench;
    const current = !skin || viewer.bodies.get(offender.body)?.body.mesh === skin.mesh; // a tool has no skins to paint
    const whole = ['draft', 'undercut', 'opens', 'gaps'].includes(gauge.id); // elsewhere the map itself shows where on a face
    const lit = [{ body: offender.body, faces: offender.faces }];
    if (offender.other) lit.push({ body: offender.other, faces: offender.other_faces });
    viewer.overlay.light(current && whole ? lit : []);
    viewer.goTo(offender.place, offender.direction);
    this.bench.tell(`${gauge.name}, ${this.at + 1} of ${count}:`, offender.words);
  }

  _offender() {
    const gauge = this.gauge(this.bench.gaugeOpen);
    const count = gauge?.offenders.length || 0;
    this.bench.offender = {
      words: this.at >= 0 && this.at < count ? gauge.offenders[this.at].words : '',
      place: count ? `${this.at < 0 ? '' : `${this.at + 1} of `}${count}` : '',
    };
  }

  _hover(event) {
    if (!this.paint.on || event.buttons || this.waiting) return;
    this.waiting = true;
    requestAnimationFrame(() => {
      this.waiting = false;
      const gauge = this.gauge(this.bench.gaugeOpen);
      const spot = gauge && this.paint.at(event.clientX, event.clientY);
      if (!spot) return;
      const band = gauge.bands[bandAt(gauge.bands, spot.value)];
      const reading =
        gauge.map === 'undercut' || this.isNothing(gauge.map, spot.value)
          ? ''
          : `${this.reading(gauge.map, spot.value)}: `;
      this.bench.tell(`${gauge.name} here:`, `${reading}${band ? band.words : ''}`);
    });
  }

  // Whether a value only says that there is none.
  isNothing(map, value) {
    return value < (map === 'mesh' ? -50 : 0);
  }

  reading(map, value) {
    if (['wall', 'gap', 'mesh'].includes(map)) return inUnit(value, this.bench.unit);
    return `${fixed(value.toPrecision(3), 9)}${{ draft: '°', flow: ' walls' }[map]}`;
  }

  // --- what the part is judged by ------------------------------------------------------------------------------

  async setPull(way) {
    const { bench } = this;
    if (way === 'suggest') {
      await this.suggest();
      return;
    }
    bench.pullWay = way;
    await bench.edit({ op: 'document', pull: way.split(',').map(Number) });
  }

  async suggest() {
    const { bench } = this;
    bench.tell('Pull:', 'trying the three axes …');
    /** @type {Wire.Started_Pulls} */
    const answer = await post(bench.path('pulls'));
    const job = await finished(answer.job);
    if (job.state !== 'done') {
      bench.tell('Not done:', job.message, 'fault');
      return;
    }
    const [best, ...rest] = job.result.pulls;
    const name = (way) => `along ${'xyz'[way.findIndex((c) => Math.abs(c) > 0.5)]}`;
    const others = rest.map((one) => `${name(one.direction)} ${exactly(one.hidden * 100, 1)} %`).join(', ');
    bench.tell(
      'Pull:',
      `${name(best.direction)} hides ${exactly(best.hidden * 100, 1)} % of the skin; ${others}`,
      '',
      'Use it',
      () => this.setPull(best.direction.map(Math.round).join(',')),
    );
  }

  pickGate() {
    const { bench } = this;
    bench.askSpot('Gate:', 'click the place where the resin enters; Esc leaves it as it was', 'the gate', (gate) =>
      bench.edit({ op: 'document', gate }),
    );
  }
}
