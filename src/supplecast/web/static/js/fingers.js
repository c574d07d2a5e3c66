// Two fingers on a sheet or a view: how far they move together, and by how much they come apart.

export class Fingers {
  constructor() {
    this.down = new Map(); // where each is, px
  }

  // What two fingers do with an event: null with one or none, or by a mouse; else {shift, ratio, at} in px.
  follow(event) {
    if (event.pointerType !== 'touch') return null;
    const before = [...this.down.values()];
    this.down.set(event.pointerId, [event.offsetX, event.offsetY]);
    const after = [...this.down.values()];
    if (after.length < 2) return null;
    const to = middle(after);
    if (before.length < 2) return { shift: [0, 0], ratio: 1, at: to };
    const from = middle(before);
    return { shift: [to[0] - from[0], to[1] - from[1]], ratio: apart(before) / apart(after), at: to };
  }

  lift(event) {
    this.down.delete(event.pointerId);
  }
}

const middle = (/** @type {any[]} */ [p, q]) => [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2];
const apart = (/** @type {any[]} */ [p, q]) => Math.hypot(p[0] - q[0], p[1] - q[1]) || 1;
