// Where labels and tags can stand: what is drawn takes up ground, in cells of a few pixels, and what is laid out looks for free ones.

const CELL = 6;

export class Ground {
  constructor() {
    this.taken = new Map(); // how much lies in a cell
  }

  _add(x, y, weight) {
    const key = Math.floor(x / CELL) * 8192 + Math.floor(y / CELL);
    this.taken.set(key, (this.taken.get(key) || 0) + weight);
  }

  // A run of pixels from place to place.
  line(places, weight = 1) {
    for (let i = 1; i < places.length; i += 1) {
      const [[ax, ay], [bx, by]] = [places[i - 1], places[i]];
      const steps = Math.min(400, Math.max(1, Math.ceil(Math.hypot(bx - ax, by - ay) / (CELL * 0.8))));
      for (let k = 0; k <= steps; k += 1) this._add(ax + ((bx - ax) * k) / steps, ay + ((by - ay) * k) / steps, weight);
    }
  }

  _cells(x, y, wide, high, visit) {
    for (let i = Math.floor((x - wide / 2) / CELL); i <= Math.floor((x + wide / 2) / CELL); i += 1)
      for (let j = Math.floor((y - high / 2) / CELL); j <= Math.floor((y + high / 2) / CELL); j += 1)
        visit(i * 8192 + j);
  }

  // A box about a place.
  box(x, y, wide, high) {
    this._cells(x, y, wide, high, (key) => this.taken.set(key, (this.taken.get(key) || 0) + 3));
  }

  crowd(x, y, wide, high) {
    let sum = 0;
    this._cells(x, y, wide, high, (key) => {
      sum += this.taken.get(key) || 0;
    });
    return sum;
  }

  // The first of some places where a box stands free, else where it is least in the way; it is taken up then.
  settle(places, wide, high) {
    let best = null;
    for (const [x, y] of places) {
      const crowd = this.crowd(x, y, wide, high);
      if (!best || crowd < best.crowd) best = { x, y, crowd };
      if (!crowd) break;
    }
    this.box(best.x, best.y, wide, high);
    return [best.x, best.y];
  }
}

// Places about one, near before far.
export function about([x, y], step, rings = 4) {
  const places = [[x, y]];
  for (let k = 1; k <= rings; k += 1)
    for (const [dx, dy] of [
      [0, -1],
      [0, 1],
      [1, 0],
      [-1, 0],
      [0.8, -0.8],
      [-0.8, -0.8],
      [0.8, 0.8],
      [-0.8, 0.8],
    ])
      places.push([x + dx * k * step, y + dy * k * step]);
  return places;
}

// Least distance from a place to a run of places.
export function gapTo(places, [x, y]) {
  let best = Infinity;
  for (let i = 1; i < places.length; i += 1) {
    const [[ax, ay], [bx, by]] = [places[i - 1], places[i]];
    const [dx, dy] = [bx - ax, by - ay];
    const t = Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
    best = Math.min(best, Math.hypot(ax + t * dx - x, ay + t * dy - y));
  }
  return best;
}

// A shape of the scene as a run of places, mm.
export function run(shape) {
  switch (shape.kind) {
    case 'line':
      return [shape.a, shape.b];
    case 'circle':
      return turn(shape.c, shape.r, 0, 2 * Math.PI);
    case 'arc': {
      const [from, to] = shape.ccw ? [shape.a, shape.b] : [shape.b, shape.a];
      const angle = (p) => Math.atan2(p[1] - shape.c[1], p[0] - shape.c[0]);
      const begin = angle(from);
      return turn(shape.c, shape.r, begin, (angle(to) - begin + 4 * Math.PI) % (2 * Math.PI));
    }
    case 'spline':
      return bends(shape.poles);
    default:
      return shape.points;
  }
}

function turn([x, y], r, begin, sweep) {
  const steps = Math.max(4, Math.ceil(sweep / 0.2));
  return Array.from({ length: steps + 1 }, (_, k) => {
    const t = begin + (sweep * k) / steps;
    return [x + r * Math.cos(t), y + r * Math.sin(t)];
  });
}

function bends(poles) {
  const places = [poles[0]];
  for (let i = 1; i < poles.length; i += 3)
    for (let k = 1; k <= 8; k += 1) {
      const [t, s] = [k / 8, 1 - k / 8];
      places.push(
        [0, 1].map(
          (c) =>
            s ** 3 * poles[i - 1][c] +
            3 * s * s * t * poles[i][c] +
            3 * s * t * t * poles[i + 1][c] +
            t ** 3 * poles[i + 2][c],
        ),
      );
    }
  return places;
}
