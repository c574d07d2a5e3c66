// A window pulled over the view with Ctrl held: what lies wholly in it, or with Shift too all that it touches, before and behind.

export class Windows {
  constructor(view, onWindow) {
    this.view = view;
    this.onWindow = onWindow;
    this.wanted = false;
    this.box = document.createElement('div');
    this.box.className = 'pulled-window';
    this.box.hidden = true;
    view.holder.append(this.box);
    view.eye.leaves = (event) => this.wanted && event.ctrlKey && event.button === 0;
    this._listen();
  }

  _listen() {
    const { canvas } = this.view;
    let from = null;
    const place = (event) => {
      const box = canvas.getBoundingClientRect();
      return [event.clientX - box.left, event.clientY - box.top];
    };
    const between = (a, b) => ({
      left: Math.min(a[0], b[0]),
      top: Math.min(a[1], b[1]),
      right: Math.max(a[0], b[0]),
      bottom: Math.max(a[1], b[1]),
    });
    canvas.addEventListener('pointerdown', (event) => {
      if (!this.view.eye.leaves(event)) return;
      from = place(event);
      canvas.setPointerCapture(event.pointerId);
    });
    canvas.addEventListener('pointermove', (event) => {
      if (!from) return;
      const { left, top, right, bottom } = between(from, place(event));
      this.box.hidden = false;
      this.box.classList.toggle('is-touching', event.shiftKey);
      Object.assign(this.box.style, {
        left: `${left}px`,
        top: `${top}px`,
        width: `${right - left}px`,
        height: `${bottom - top}px`,
      });
    });
    canvas.addEventListener('pointerup', (event) => {
      if (!from) return;
      const window = between(from, place(event));
      from = null;
      this.box.hidden = true;
      if (window.right - window.left < 4 && window.bottom - window.top < 4) return;
      this.view.eye.moved = true; // the click that follows is none
      this.onWindow(window, event.shiftKey);
    });
    canvas.addEventListener('pointercancel', () => {
      from = null;
      this.box.hidden = true;
    });
  }

  // The faces or edges of shown bodies in a window of the canvas, px: [{body, face | edge, mesh}].
  within(window, kind, touching) {
    const hits = [];
    const { right, up } = this.view.eye.axes();
    const { canvas, eye } = this.view;
    const { width, height } = canvas.getBoundingClientRect();
    for (const entry of this.view.bodies.values()) {
      if (!entry.group.visible || (!entry.body.solid && !entry.body.mesh)) continue;
      const base = entry.group.position.clone().sub(eye.target);
      const onPage = (points, i) => [
        width / 2 +
          (base.dot(right) + points[i] * right.x + points[i + 1] * right.y + points[i + 2] * right.z) / eye.unit,
        height / 2 - (base.dot(up) + points[i] * up.x + points[i + 1] * up.y + points[i + 2] * up.z) / eye.unit,
      ];
      const { read } = entry.geometry;
      const { body } = entry;
      const take = (item) => hits.push({ body: body.id, mesh: body.mesh, ...item });
      const ends = kind === 'faces' ? read.faceEnds : read.edgeEnds;
      ends.forEach((end, index) => {
        const from = index ? ends[index - 1] : 0;
        const pieces = [];
        if (kind === 'faces')
          for (let t = from; t < end; t += 1)
            pieces.push([0, 1, 2].map((k) => onPage(read.points, read.triangles[t * 3 + k] * 3)));
        else
          for (let i = from; i < end; i += 2)
            pieces.push([onPage(read.segments, i * 3), onPage(read.segments, (i + 1) * 3)]);
        if (
          pieces.length &&
          (touching ? pieces.some((p) => touches(p, window)) : pieces.every((p) => holds(p, window)))
        )
          take(kind === 'faces' ? { face: index } : { edge: index });
      });
    }
    return hits;
  }
}

function holds(corners, { left, top, right, bottom }) {
  return corners.every(([x, y]) => x >= left && x <= right && y >= top && y <= bottom);
}

// Whether a stretch or triangle shares a point with a window: no side of either, taken as a line, has them on its two sides.
export function touches(corners, { left, top, right, bottom }) {
  const frame = [
    [left, top],
    [right, top],
    [right, bottom],
    [left, bottom],
  ];
  const ways = [
    [1, 0],
    [0, 1],
    ...corners.map((corner, i) => {
      const next = corners[(i + 1) % corners.length];
      return [corner[1] - next[1], next[0] - corner[0]];
    }),
  ].filter(([x, y]) => x || y);
  return ways.every(([x, y]) => {
    const along = (points) => points.map((point) => point[0] * x + point[1] * y);
    const [a, b] = [along(corners), along(frame)];
    return Math.max(...a) >= Math.min(...b) && Math.max(...b) >= Math.min(...a);
  });
}
