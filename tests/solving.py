"""Floors of tests, solved."""

from functools import partial

from piastra.core import pipeline

solve_floor = partial(pipeline.solve_floor, remedies=False)
"""What would mend them takes half of the time where much fails, and has tests of its own."""
