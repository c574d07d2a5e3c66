"""The mold base: the plates round the two halves of a tool, and what guides, holds, pushes back and lifts them.

Levels are mm along the pull from the parting plane, the fixed side below zero. In plan `u` runs along the longer side of the
plates and `v` along the shorter, from their middle.
"""
