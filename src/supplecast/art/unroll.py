"""A patch of any form laid flat round a place, with as little stretch as can be.

First as conformal as can be by least squares (Lévy, Petitjean, Ray, Maillot, “Least squares conformal maps”, 2002), which is
exact for what can be unrolled; then as rigid as possible (Liu, Zhang, Xu, Gotsman, Gortler, “A local/global approach to mesh
parameterization”, 2008). Both from memory.
"""

from __future__ import annotations

import numpy as np
from scipy import sparse
from scipy.sparse import csgraph, linalg

from supplecast.geometry import Floats, Frame, Ints, Rows

_ROUNDS = 30
_STILL = 1e-6  # of a patch's size that a round may move it by and count as settled
_FEW_WEIGHT = 1e-3  # least cotangent: slivers still hold together


def near(points: Floats, triangles: Rows | Ints, place: Floats, reach: float) -> Rows:
    """Triangles round a place, all whose nearest corner is no farther than `reach` mm over the skin, in one piece with the one
    that the place lies on, by number. `points` (n, 3) are shared by triangles (m, 3).
    """
    start = int(np.argmin(np.linalg.norm(points[triangles].mean(axis=1) - place, axis=1)))
    inside = _triangle_at(points[triangles], place)
    start = inside if inside is not None else start
    a, b = triangles, np.roll(triangles, -1, axis=1)
    lengths = np.linalg.norm(points[a] - points[b], axis=2)
    graph = sparse.coo_array((lengths.ravel(), (a.ravel(), b.ravel())), shape=(len(points), len(points)))
    first = np.linalg.norm(points[triangles[start]] - place, axis=1)
    ways = csgraph.dijkstra(graph.tocsr(), directed=False, indices=triangles[start]) + first[:, None]
    close = ways.min(axis=0)[triangles].min(axis=1) <= reach
    close[start] = True
    chosen = np.flatnonzero(close)
    label = _pieces(triangles[chosen], len(points))
    whole: Rows = chosen[label == label[np.searchsorted(chosen, start)]]
    return whole


def unrolled(points: Floats, triangles: Rows | Ints, frame: Frame) -> Floats:
    """Where points (n, 3) mm of a patch of triangles (m, 3) lie on paper, (n, 2) mm, such that the origin of `frame`, which
    touches the patch there, is the paper's, with x along its x.
    """
    flat = _conformal(points, triangles)
    flat *= np.sqrt(_area(points[triangles]) / max(_area(flat[triangles]), 1e-12))  # its size hangs on what was held
    flat = _rigid(points, triangles, flat)
    return _laid(points, triangles, flat, frame)


def stretch(corners: Floats, paper: Floats) -> Floats:
    """How far triangles (m, 3, 3) mm are longer or shorter on paper (m, 3, 2) than they are, at worst in any direction, (m,) as
    a share: of a picture laid on them, 0.1 is 10 %.
    """
    across, aside = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    long = np.maximum(np.linalg.norm(across, axis=1), 1e-12)
    x = across / long[:, None]
    along = np.einsum("ij,ij->i", aside, x)
    height = np.maximum(np.linalg.norm(aside - along[:, None] * x, axis=1), 1e-12)
    u, v = paper[:, 1] - paper[:, 0], paper[:, 2] - paper[:, 0]
    first = u / long[:, None]
    second = (v - along[:, None] * first) / height[:, None]
    # The singular values of a 2 × 2 matrix with these columns, in closed form.
    mean = (np.einsum("ij,ij->i", first, first) + np.einsum("ij,ij->i", second, second)) / 2
    skew = np.hypot(
        (np.einsum("ij,ij->i", first, first) - np.einsum("ij,ij->i", second, second)) / 2,
        np.einsum("ij,ij->i", first, second),
    )
    most, least = np.sqrt(mean + skew), np.sqrt(np.maximum(mean - skew, 0.0))
    worst: Floats = np.maximum(np.abs(most - 1), np.abs(1 - least))
    return worst


def _area(corners: Floats) -> float:
    """Of triangles in space or in the plane, together."""
    a, b = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    square = (a * a).sum(axis=1) * (b * b).sum(axis=1) - (a * b).sum(axis=1) ** 2
    return float(np.sqrt(np.maximum(square, 0.0)).sum() / 2)


def _pieces(triangles: Rows | Ints, count: int) -> Rows:
    """A number for each triangle, the same for all that hang together by corners."""
    a, b = triangles[:, [0, 1]].ravel(), triangles[:, [1, 2]].ravel()
    graph = sparse.coo_array((np.ones(len(a)), (a, b)), shape=(count, count))
    _, label = csgraph.connected_components(graph, directed=False)
    return np.asarray(label[triangles[:, 0]], dtype=np.int64)


def _triangle_at(corners: Floats, place: Floats) -> int | None:
    """The triangle that a place lies on, or is nearest over; None beside all."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    normal = np.cross(b - a, c - a)
    size = np.maximum((normal**2).sum(axis=1), 1e-30)
    shares = [(np.cross(q - p, place - p) * normal).sum(axis=1) / size for p, q in ((a, b), (b, c), (c, a))]
    height = np.abs(((place - a) * normal).sum(axis=1)) / np.sqrt(size)
    within = np.min(shares, axis=0) >= -1e-6
    return int(np.argmin(np.where(within, height, np.inf))) if within.any() else None


def _local(points: Floats, triangles: Rows | Ints) -> Floats:
    """Each triangle by itself in its own plane, (m, 3, 2)."""
    corners = points[triangles]
    across, aside = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    long = np.maximum(np.linalg.norm(across, axis=1), 1e-12)
    x = across / long[:, None]
    along = np.einsum("ij,ij->i", aside, x)
    height = np.linalg.norm(aside - along[:, None] * x, axis=1)
    local = np.zeros((len(triangles), 3, 2))
    local[:, 1, 0] = long
    local[:, 2, 0], local[:, 2, 1] = along, height
    return local


def _conformal(points: Floats, triangles: Rows | Ints) -> Floats:
    local = _local(points, triangles)
    count, rows = len(points), np.arange(len(triangles))
    root = np.sqrt(np.maximum(local[:, 1, 0] * local[:, 2, 1], 1e-12))[:, None]
    # Of each triangle the weights of its corners: edges across from them, as complex numbers.
    weights = (np.roll(local, -2, axis=1) - np.roll(local, -1, axis=1)) / root[:, :, None]
    real, imaginary = weights[:, :, 0], weights[:, :, 1]
    index = np.repeat(rows[:, None], 3, axis=1)
    shape = (len(triangles), count)
    re = sparse.coo_array((real.ravel(), (index.ravel(), triangles.ravel())), shape=shape).tocsr()
    im = sparse.coo_array((imaginary.ravel(), (index.ravel(), triangles.ravel())), shape=shape).tocsr()
    whole = sparse.block_array([[re, -im], [im, re]]).tocsc()
    used = np.unique(triangles)
    far = used[np.argmax(np.linalg.norm(points[used] - points[used[0]], axis=1))]
    held = np.array([used[0], far, used[0] + count, far + count])
    values = np.array([0.0, np.linalg.norm(points[far] - points[used[0]]), 0.0, 0.0])
    free = np.setdiff1d(np.concatenate([used, used + count]), held)
    matrix, pinned = whole[:, free], whole[:, held]
    normal = (matrix.T @ matrix).tocsc()
    solved = linalg.splu(normal + sparse.eye_array(normal.shape[0]) * 1e-12).solve(-(matrix.T @ (pinned @ values)))
    flat = np.zeros(2 * count)
    flat[held], flat[free] = values, solved
    return flat.reshape(2, count).T


def _rigid(points: Floats, triangles: Rows | Ints, flat: Floats) -> Floats:
    """Rounds of turning each triangle as it lies and then setting corners so that all turned triangles fit best."""
    local = _local(points, triangles)
    count = len(points)
    used = np.unique(triangles)
    place = np.zeros(count, dtype=np.int64)
    place[used] = np.arange(len(used))
    corners = place[triangles]
    ends = [(1, 2), (2, 0), (0, 1)]
    area = np.maximum(local[:, 1, 0] * local[:, 2, 1], 1e-12)
    weights = []
    for k, (p, q) in enumerate(ends):
        a, b = local[:, p] - local[:, k], local[:, q] - local[:, k]
        weights.append(np.maximum(np.einsum("ij,ij->i", a, b) / area / 2, _FEW_WEIGHT))
    i = np.concatenate([corners[:, a] for a, _ in ends])
    j = np.concatenate([corners[:, b] for _, b in ends])
    w = np.concatenate(weights)
    size = len(used)
    laplace = sparse.coo_array(
        (np.concatenate([w, w, -w, -w]), (np.concatenate([i, j, i, j]), np.concatenate([i, j, j, i]))), shape=(size, size)
    ).tocsc()
    solver = linalg.splu(laplace + sparse.coo_array(([1.0], ([0], [0])), shape=(size, size)).tocsc())
    now = flat[used]
    scale = max(float(np.ptp(local.reshape(-1, 2))), 1e-12)
    for _ in range(_ROUNDS):
        turn = _turns(local, now[corners], ends, weights)
        pull = np.zeros((size, 2))
        for weight, (p, q) in zip(weights, ends, strict=True):
            edge = weight[:, None] * np.einsum("tij,tj->ti", turn, local[:, p] - local[:, q])
            np.add.at(pull, corners[:, p], edge)
            np.add.at(pull, corners[:, q], -edge)
        moved = solver.solve(pull)
        step = float(np.abs((moved - moved[0]) - (now - now[0])).max())
        now = moved
        if step < _STILL * scale:
            break
    flat = np.zeros((count, 2))
    flat[used] = now
    return flat


def _turns(local: Floats, laid: Floats, ends: list[tuple[int, int]], weights: list[Floats]) -> Floats:
    """The turn of each triangle that comes nearest to how it is laid, (m, 2, 2): in the plane it has a closed form."""
    real, imaginary = np.zeros(len(local)), np.zeros(len(local))
    for weight, (a, b) in zip(weights, ends, strict=True):
        own, now = local[:, a] - local[:, b], laid[:, a] - laid[:, b]
        real += weight * (own * now).sum(axis=1)
        imaginary += weight * (own[:, 0] * now[:, 1] - own[:, 1] * now[:, 0])
    size = np.maximum(np.hypot(real, imaginary), 1e-30)
    c, s = real / size, imaginary / size
    return np.stack([np.stack([c, -s], axis=-1), np.stack([s, c], axis=-1)], axis=1)


def _laid(points: Floats, triangles: Rows | Ints, flat: Floats, frame: Frame) -> Floats:
    """Shift and turn what is flat so that it lies as the frame does where that touches it."""
    place = np.array(frame.origin)
    at = _triangle_at(points[triangles], place)
    mine = triangles[at if at is not None else int(np.argmin(np.linalg.norm(points[triangles].mean(axis=1) - place, axis=1)))]
    corners, paper = points[mine], flat[mine]
    basis = np.stack([corners[1] - corners[0], corners[2] - corners[0]], axis=1)
    sides = np.stack([paper[1] - paper[0], paper[2] - paper[0]], axis=1)

    def on_paper(direction: Floats) -> Floats:
        shares: Floats = np.linalg.lstsq(basis, direction, rcond=None)[0]
        return np.asarray(sides @ shares)

    origin = paper[0] + on_paper(place - corners[0])
    x = on_paper(np.array(frame.x))
    x = x / max(float(np.linalg.norm(x)), 1e-12)
    turn = np.array([x, [-x[1], x[0]]])
    laid: Floats = (flat - origin) @ turn.T
    return laid
