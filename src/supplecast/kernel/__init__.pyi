"""Written by scripts/docs.py from the rooms of the kernel; run make docs."""

from __future__ import annotations

from supplecast.kernel.features import attached_features as attached_features
from supplecast.kernel.features import boss as boss
from supplecast.kernel.features import contour as contour
from supplecast.kernel.features import emboss as emboss
from supplecast.kernel.features import lip as lip
from supplecast.kernel.features import nest as nest
from supplecast.kernel.features import rib as rib
from supplecast.kernel.features import snap as snap
from supplecast.kernel.features import wrap as wrap
from supplecast.kernel.formats import facets as facets
from supplecast.kernel.formats import step_files as step_files
from supplecast.kernel.measuring import datums as datums
from supplecast.kernel.measuring import edges as edges
from supplecast.kernel.measuring import face_reach as face_reach
from supplecast.kernel.measuring import facing as facing
from supplecast.kernel.measuring import flatten as flatten
from supplecast.kernel.measuring import forms as forms
from supplecast.kernel.measuring import gauge as gauge
from supplecast.kernel.measuring import integrate as integrate
from supplecast.kernel.measuring import measure as measure
from supplecast.kernel.measuring import openings as openings
from supplecast.kernel.measuring import probing as probing
from supplecast.kernel.measuring import quadrature as quadrature
from supplecast.kernel.meshing import analytic_surfaces as analytic_surfaces
from supplecast.kernel.meshing import check as check
from supplecast.kernel.meshing import face_samples as face_samples
from supplecast.kernel.meshing import mesh as mesh
from supplecast.kernel.meshing import rectangle as rectangle
from supplecast.kernel.meshing import triangulation as triangulation
from supplecast.kernel.meshing import triangulation_flat as triangulation_flat
from supplecast.kernel.meshing import triangulation_turned as triangulation_turned
from supplecast.kernel.molds import halves as halves
from supplecast.kernel.molds import offset_matching as offset_matching
from supplecast.kernel.molds import parting as parting
from supplecast.kernel.molds import parting_surface as parting_surface
from supplecast.kernel.molds import runner as runner
from supplecast.kernel.molds import shutoff as shutoff
from supplecast.kernel.molds import slide as slide
from supplecast.kernel.shapes import apart as apart
from supplecast.kernel.shapes import blob as blob
from supplecast.kernel.shapes import faults as faults
from supplecast.kernel.shapes import history as history
from supplecast.kernel.shapes import memo as memo
from supplecast.kernel.shapes import profile as profile
from supplecast.kernel.shapes import shape as shape
from supplecast.kernel.shapes import spline as spline
from supplecast.kernel.verbs import blend as blend
from supplecast.kernel.verbs import boolean as boolean
from supplecast.kernel.verbs import carry_rounds as carry_rounds
from supplecast.kernel.verbs import clearance as clearance
from supplecast.kernel.verbs import contact as contact
from supplecast.kernel.verbs import draft as draft
from supplecast.kernel.verbs import extend as extend
from supplecast.kernel.verbs import extent as extent
from supplecast.kernel.verbs import feature as feature
from supplecast.kernel.verbs import heal as heal
from supplecast.kernel.verbs import loft as loft
from supplecast.kernel.verbs import mouths as mouths
from supplecast.kernel.verbs import move as move
from supplecast.kernel.verbs import move_face as move_face
from supplecast.kernel.verbs import order as order
from supplecast.kernel.verbs import outside as outside
from supplecast.kernel.verbs import parting_line_draft as parting_line_draft
from supplecast.kernel.verbs import passage as passage
from supplecast.kernel.verbs import patch as patch
from supplecast.kernel.verbs import recognise as recognise
from supplecast.kernel.verbs import revolve as revolve
from supplecast.kernel.verbs import route as route
from supplecast.kernel.verbs import seating as seating
from supplecast.kernel.verbs import sewing as sewing
from supplecast.kernel.verbs import silhouette as silhouette
from supplecast.kernel.verbs import solid as solid
from supplecast.kernel.verbs import split as split
from supplecast.kernel.verbs import split_face as split_face
from supplecast.kernel.verbs import surface as surface
from supplecast.kernel.verbs import sweep as sweep
from supplecast.kernel.verbs import thick_solid as thick_solid
from supplecast.kernel.verbs import tidy as tidy
from supplecast.kernel.verbs import wall_check as wall_check
from supplecast.kernel.verbs import walls as walls

ROOMS: dict[str, str]

def preload() -> None: ...
