// The workbench: one document, its view and its sheet. Holds what the page shows; the rules live on the server.

import Alpine from 'alpine';
import { Sketcher } from '../sketch/sketcher.js';
import { Viewer } from '../view/viewer.js';
import { building } from './building.js';
import { travelling } from './travelling.js';
import { adding } from './adding.js';
import { picking } from './picking.js';
import { handling } from './handling.js';
import { placing } from './placing.js';
import { Seen } from './seen.js';
import { bodiesPanel } from './bodies_panel.js';
import { gaugesPanel } from './gauges_panel.js';
import { viewPanel } from './view_panel.js';
import { walking } from './walking.js';
import { wayPanel } from './way_panel.js';
import { sketchPanel } from './sketch_panel.js';
import { keys } from './keys.js';
import { lessonPanel, noLesson } from './lesson.js';
import { compose } from './compose.js';
import { Cutting } from './cutting.js';
import { Gauges } from './gauges.js';
import { Measuring } from './measuring.js';
import { Modes } from './modes.js';
import { listenToSheet } from './sheet.js';

const state = () => ({
  lead: 'Ready:',
  say: 'click a number to change it, or / to add a step; ? shows keys and help',
  tone: '',
  offer: '',
  onOffer: null,
  busy: false,
  loaded: false,
  progress: '',
  bodies: [],
  size: '',
  rebuilt: '',
  undoCount: 0,
  canRedo: false,
  stepCount: '',
  mode: 'shaded',
  background: 'bench',
  depth: false,
  strained: false, // whether a print shows its stretch
  cut: { on: false, axis: 'y', at: 0, low: -50, high: 50, turn: 0, tilt: 0, name: '', kept: [], wall: '' },
  stroke: 0,
  way: { on: false, travel: null, share: 0 },
  canOpen: false,
  walked: null, // the face or edge that arrow keys have come to
  walkKind: 'face',
  walkFor: '',
  stages: [], // of the opening stroke
  fixedAbove: false, // whether the view has the mold's fixed side above
  adding: false,
  addText: '',
  figureFor: '',
  picking: false,
  placing: false,
  things: [],
  keysOpen: false,
  helpOn: { words: '', href: '' },
  stale: false,
  sheetOpen: false,
  listOpen: { all: true, bodies: true },
  extras: [],
  pickLead: '',
  pickWords: '',
  pickCount: 0,
  pickHelp: '',
  rules: [],
  taken: [],
  shown: '',
  lookOpen: '',
  contacts: [],
  measuring: false,
  measures: [],
  suitWords: '',
  strip: [],
  shortStrip: '',
  judged: { old: false, why: '' },
  gaugeOpen: '',
  gaugePanel: null,
  offender: { words: '', place: '' },
  pullWay: '',
  figureOpen: '',
  onSpot: null, // what is to be done with the next place that is clicked
  lesson: noLesson(),
  unitAsk: {
    on: false,
    unit: '',
    size: '',
    numbers: '',
    all: '',
    held: '',
    sizeWarning: '',
    numbersWarning: '',
    allWarning: '',
  },

  sk: {
    on: false,
    areas: false,
    step: '',
    name: '',
    freedoms: 0,
    freedomWords: '',
    share: 0,
    regionWords: '',
    area: '',
    areaUnit: '',
    about: '',
    empty: false,
    gaps: [],
    gapTone: '',
    sizes: [],
    rows: [],
    curves: [],
    belt: [],
    more: false,
    fields: [],
    chips: [],
    lead: '',
    say: '',
    tone: '',
    offer: '',
    place: '',
    plain: true,
    cut: false,
    construct: false,
    showCurves: false,
    planes: [],
  },
});

/** @type {ThisType<any> & Record<string, any>} */
const opening = {
  init() {
    const data = this.$el.dataset;
    this.id = data.document;
    this.kind = data.kind;
    this.unit = data.unit;
    this.revision = Number(data.revision);
    this.undoCount = Number(data.undo);
    this.canRedo = data.redo === 'yes';
    this.standing = data.at || null;
    this.hasLesson = Boolean(data.lesson);
    document.querySelector('.standing')?.scrollIntoView({ block: 'center' });
    this.serial = 0;
    this.kept = 0; // edits begun on this page
    this.chosen = [];
    this.clicked = null; // the place of the model that was clicked last
    this.aside = new Set(); // bodies that a finished tool is first shown without
    this.seen = new Seen(this.id);
    this.listOpen = { all: this.seen.shown('open/all'), bodies: this.seen.shown('open/bodies') };
    this.folded = new Set(); // assemblies whose parts are not listed
    this.chain = Promise.resolve();
    this.viewer = new Viewer(document.getElementById('view'), {
      onPick: (hit, event) => this.picked(hit, event),
      onWindow: (window, touching) => this.pickWindow(window, touching),
      onHandle: this.heardHandles,
    });
    this.viewer.wants = 'any';
    for (const what of ['picking', 'placing', 'measuring', 'sk.on'])
      this.$watch(what, () => this.viewer.setAtWork(this.picking || this.placing || this.measuring || this.sk.on));
    this.viewer.hasPull = this.kind !== 'assembly';
    this.viewer.ground.unit = this.unit;
    this.viewer.ground.drawAxes(true);
    this.sheet = document.getElementById('sheet');
    this.countSteps();
    this.$el.bench = this; // where tests and the console find it
    this.modes = new Modes();
    // While something is picked for a step, the field that is being typed in keeps the focus.
    document.addEventListener('mousedown', (event) => {
      const { target } = event;
      if (this.picking && target instanceof Element && target.closest('#view, #things, #pickbar'))
        event.preventDefault();
    });
    document.addEventListener('dragover', (event) => event.preventDefault());
    document.addEventListener('drop', (event) => this.dropFile(event));
    window.addEventListener('pagehide', () => this.rememberEye());
    listenToSheet(this.sheet, this);
    this.listen();
    this.sketcher = new Sketcher(this);
    this.measurer = new Measuring(this);
    this.pullWay = data.pull;
    this.gauges = new Gauges(this);
    this.cut.kept = JSON.parse(data.cuts || '[]');
    this.cutting = new Cutting(this);
    const sketch = new URLSearchParams(location.search).get('sketch');
    if (sketch && this.sheet.querySelector(`[data-line="${CSS.escape(sketch)}"] [data-draw]`))
      this.sketcher.open(sketch);
    else this.begin();
    this.readLesson();
  },
};

Alpine.data('bench', () =>
  compose(
    state(),
    opening,
    building,
    travelling,
    adding,
    picking,
    placing,
    handling,
    bodiesPanel,
    gaugesPanel,
    viewPanel,
    walking,
    wayPanel,
    sketchPanel,
    lessonPanel,
    keys,
  ),
);

Alpine.start();
