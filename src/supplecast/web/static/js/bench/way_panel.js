// A body shown on the way that the step being edited tries: moved by a slider, or played, and where it meets another said.

import { exactly, inUnit } from '../numbers.js';
import { STROKE, play } from '../view/opening.js';

/** @type {ThisType<any> & Record<string, any>} */
export const wayPanel = {
  // Follow the step being edited: its way can be shown, and another one's is put away.
  showWay(step) {
    const travel = step?.travel || null;
    if (JSON.stringify(travel) === JSON.stringify(this.way.travel)) return;
    this.stopWay?.();
    this.way = { on: Boolean(travel), travel, share: 0 };
    this.viewer.setTravel(travel, 0);
  },

  get wayWords() {
    const { travel, share } = this.way;
    if (!travel) return '';
    const gone = (share / STROKE) * Math.abs(travel.far);
    const said = (value) =>
      travel.kind === 'turn' ? `${exactly((value * 180) / Math.PI, 1)}°` : inUnit(value, this.unit);
    const met = travel.meets && gone > travel.free;
    return met ? `in ${travel.meets} since ${said(travel.free)}` : `${said(gone)} of ${said(Math.abs(travel.far))}`;
  },

  get wayTone() {
    const { travel, share } = this.way;
    return travel?.meets && (share / STROKE) * Math.abs(travel.far) > travel.free ? 'text-fault' : '';
  },

  moveWay() {
    this.stopWay?.();
    this.viewer.setTravel(this.way.travel, Number(this.way.share) / STROKE);
  },

  playWay() {
    this.stopWay?.();
    this.stopWay = play((share) => {
      this.way = { ...this.way, share };
      this.viewer.setTravel(this.way.travel, share / STROKE);
    });
  },
};
