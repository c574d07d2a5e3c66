"""Bodies of other programs mended: free faces that are nearly plain forms made so, and halves of one face joined."""

from __future__ import annotations

from supplecast.kernel.measuring import edges, measure
from supplecast.kernel.shapes.faults import REFUSALS
from supplecast.kernel.shapes.history import Made, unchanged
from supplecast.kernel.shapes.shape import Solid, is_valid
from supplecast.kernel.verbs import recognise
from supplecast.kernel.verbs.tidy import unified

_LEAST, _MOST = 2e-3, 0.02
"""mm that a face may be moved at least and at most: what files give coordinates to, and what nobody would miss."""


def reach(solid: Solid) -> float:
    """How far a face may be moved to make it a plain form, mm: about as far as the body's faces are apart anyway."""
    return min(max(2 * edges.looseness(solid), _LEAST), _MOST)


def healed(solid: Solid) -> Made:
    """The body with its free faces as the plain forms they nearly are, and with faces that lie on one surface side by side
    joined; as it is where that would not be sound.
    """
    close = reach(solid)
    # First what is a form to the last digit: else a cone of little draft would pass for the cylinder that it nearly is.
    best = Made(recognise.with_forms(recognise.with_forms(solid), close), unchanged(solid))
    try:
        joined = unified(best, "healing")
    except REFUSALS:
        return best
    # Nothing may grow or shrink by more than its skin being moved that far.
    change = abs(measure.volume(joined.solid) - measure.volume(solid))
    return joined if is_valid(joined.solid) and change <= close * measure.mass(solid).area else best
