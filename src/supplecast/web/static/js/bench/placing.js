// Where a new sketch is to lie: the planes and flat faces to choose from are shown in the view, and each has a key.

import { STANDARD, cornersOf } from '../view/ground.js';
import { shownPlanes } from './things.js';

/** @type {ThisType<any> & Record<string, any>} */
export const placing = {
  // A flat face that is picked, or a plane just made, is where a sketch goes; otherwise one is asked for. Null if one is asked for.
  async placeAtHand() {
    const faces = this.chosen.filter((item) => item.face !== undefined);
    if (faces.length) {
      const [first] = await this.refer([faces[0]]);
      if (first.flat !== false) return first.pick;
      return null;
    }
    const steps = this.result?.steps || [];
    const last = this.standing ? steps.find((step) => step.id === this.standing) : steps.at(-1);
    return last?.type === 'plane' && last.status !== 'failed' ? { datum: last.id } : null;
  },

  // Show where a sketch can lie and wait for one of them; `then` is given the plane as a document names it.
  askPlace(then, lead = 'Draw on:') {
    const reach = this.viewer.ground.reach();
    const standard = STANDARD.map((plane) => ({
      key: `plane/${plane.name}`,
      words: plane.words,
      corners: cornersOf(plane, reach, this.viewer.eye.way),
      pick: { plane: plane.name },
    }));
    const datums = (this.result?.datums || [])
      .filter((datum) => datum.kind === 'plane')
      .map((datum) => ({
        key: `datum/${datum.id}`,
        words: datum.name,
        corners: datum.lines[0],
        pick: { datum: datum.id },
      }));
    this.places = [...standard, ...datums].map((place, index) => ({
      ...place,
      hint: index < 9 ? String(index + 1) : '',
      act: () => this.takePlace(place.pick),
    }));
    this.onPlace = then;
    this.placing = true;
    this.chosen = [];
    this.viewer.overlay.light([]);
    this.viewer.wants = 'faces';
    this.viewer.ground.show(this.places);
    this.viewer.fitIfSmall(this.places.flatMap(({ corners }) => corners));
    this.modes.enter('placing', () => {
      this.stopPlacing();
      this.tell('Ready:', 'no sketch was begun');
    });
    const faces = this.result?.bodies.length ? ' or a flat face' : '';
    this.tell(lead, `click a plane${faces}, or press its number; Enter takes the top plane, Esc leaves it`);
  },

  takePlace(pick) {
    const then = this.onPlace;
    this.stopPlacing();
    return then(pick);
  },

  placeKey(key) {
    const place = key === 'Enter' ? this.places[0] : this.places.find(({ hint }) => hint && hint === key);
    if (place) this.takePlace(place.pick)?.catch?.((problem) => this.fail(problem));
    return Boolean(place);
  },

  async placed(hit) {
    if (!hit) return;
    if (hit.place) {
      await this.takePlace(hit.place.pick);
      return;
    }
    const [reference] = await this.refer([hit]);
    if (reference.flat === false)
      this.tell('Not flat:', 'a sketch lies on a flat face or on a plane; click one', 'fault');
    else await this.takePlace(reference.pick);
  },

  stopPlacing() {
    this.placing = false;
    this.onPlace = null;
    this.modes.end('placing');
    this.viewer.wants = 'any';
    this.showPlanes();
  },

  // Wait for a click on the model; `then` is given the place, and Escape leaves `what` as it was.
  askSpot(lead, say, what, then) {
    this.onSpot = then;
    this.modes.enter('spotting', () => {
      this.onSpot = null;
      this.tell('Ready:', `${what} stays as it was`);
    });
    this.tell(lead, say);
  },

  async takeSpot({ clientX, clientY }) {
    const then = this.onSpot;
    const spot = this.viewer.picker.spotAt(clientX, clientY);
    if (!spot) return;
    this.onSpot = null;
    this.modes.end('spotting');
    await then(spot);
  },

  // Where a step is to put what it does: the next click on the model.
  putByClick(step, field) {
    this.askSpot('Put:', 'click its place on the face; Esc leaves it where it is', 'it', (value) =>
      this.edit({ op: 'set', step, field, value }),
    );
  },

  // The standard planes that the list says are to be seen.
  showPlanes() {
    if (!this.placing) this.viewer.ground.show(shownPlanes(this.seen, this.viewer.ground.reach(), this.viewer.eye.way));
  },
};
