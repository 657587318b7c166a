"""Strains of the elements' own, and stiffness made anew on the pattern that is there."""

from dataclasses import replace

import numpy as np
import pytest

from piastra.core.fe.linear_solver import factorise
from piastra.core.fe.recovery import section_forces
from piastra.core.fe.solution import solve
from piastra.core.fe.states import frozen
from piastra.core.fe.system import assemble, coupled, in_turn, initial_vectors, renewed, with_sections
from piastra.core.verification.case import E, edges, plate, solved
from tests.floors import every_kind, flat_slab

L, B, H, KAPPA = 6.0, 2.0, 0.2, 1e-3
OUTLINE = [[0, 0], [L, 0], [L, B], [0, B]]


def strip(rotation):
    ends = [e for e in edges(OUTLINE, rotation) if len({p[0] for p in e["line"]}) == 1]
    return solved(plate(OUTLINE, H, 0.0, 0.4, ends)).outcome.stiffness


def strained(made, row, value):
    """Displacements and section forces under one initial strain everywhere."""
    count = sum(len(f.nodes) for f in made.system.families)
    initial = np.zeros((count, 8, 1))
    initial[:, row] = value
    found = solve(made.system, initial_vectors(made.system, initial))
    return found.u[..., 0], section_forces(made.system, made.kept, found.u, initial)[..., 0]


def test_a_free_strip_bends_to_a_curvature_of_its_own_without_moments():
    made = strip("free")
    u, forces = strained(made, 3, KAPPA)
    x = made.system.mesh.xy[:, 0]
    # A parabola between the supports: kappa x (L - x) / 2, downwards for the sagging one.
    assert u[:, 2] == pytest.approx(KAPPA * x * (L - x) / 2, abs=1e-9 * KAPPA * L * L)
    assert np.abs(forces[:, 3:6]).max() < 1e-7 * E * H**3 / 12 * KAPPA


def test_a_fixed_strip_stays_and_takes_the_moment_of_the_curvature_it_is_denied():
    made = strip("fixed")
    u, forces = strained(made, 3, KAPPA)
    denied = -E * H**3 / 12 * KAPPA
    assert np.abs(u).max() < 1e-9
    assert forces[:, 3] == pytest.approx(denied, rel=1e-7)
    assert forces[:, 4:6] == pytest.approx(0.0, abs=1e-7 * abs(denied))


def test_a_slab_that_nothing_holds_in_its_plane_shrinks_without_force():
    made = strip("free")
    u, forces = strained(made, 0, -5e-4)
    x = made.system.mesh.xy[:, 0]
    assert u[:, 0] - u[:, 0].mean() == pytest.approx(-5e-4 * (x - x.mean()), abs=1e-12)
    assert np.abs(forces[:, :6]).max() < 1e-6 * E * H * 5e-4


@pytest.mark.parametrize(
    "document", [flat_slab(2, 1), pytest.param(every_kind(), marks=pytest.mark.study)], ids=["flat slab", "every kind"]
)
def test_stiffness_made_anew_is_that_of_an_assembly_from_the_start(document):
    system = solved(document).outcome.stiffness.system
    softer = tuple(
        replace(f, stiffness=f.stiffness * np.linspace(0.3, 0.6, len(f.nodes))[:, None, None]) for f in system.families
    )
    wanted = assemble(system.mesh, softer, system.held)
    load = np.random.default_rng(1).normal(size=(len(system.mesh.xy), 5, 2))
    load[:, :2] = 0.0
    expected = solve(wanted, load).u
    first = renewed(system, softer)
    assert np.abs(solve(first, load).u - expected).max() < 1e-9 * np.abs(expected).max()
    # And again on the analysis that the first one made, back to where it began; the system itself has stayed as it was.
    back = renewed(first, system.families)
    own = solve(system, load).u
    assert np.abs(solve(back, load).u - own).max() < 1e-9 * np.abs(own).max()
    assert np.abs(own - expected).max() > 0.1 * np.abs(own).max()


def load_of(system):
    load = np.random.default_rng(1).normal(size=(len(system.mesh.xy), 5, 2))
    load[:, :2] = 0.0
    return load


@pytest.mark.parametrize(
    ("half", "many"), [(0.0, False), (0.3, False), (1.0, True)], ids=["one thickness", "a small drop", "a large drop"]
)
def test_what_couples_nothing_in_the_plane_with_bending_has_no_entries_for_it(half, many):
    """A flat slab is two systems; where a drop's middle lies lower, its elements alone couple. Nothing is left out of the matrix but noughts; where
    many couple, it is not worth the while."""
    document = flat_slab(2, 1)
    if half:
        outline = [[6 - half, 3 - half], [6 + half, 3 - half], [6 + half, 3 + half], [6 - half, 3 + half]]
        document["thickenings"] = [{"id": "D", "kind": "drop_panel", "outline": outline, "thickness_m": 0.4}]
    system = solved(document).outcome.stiffness.system
    alone, whole = np.concatenate(system.apart), coupled(system)
    if many:
        assert not alone.any()
        assert system.matrix.nnz == whole.nnz
    else:
        assert alone.all() == (not half)
        assert system.matrix.nnz < 0.62 * whole.nnz
    assert abs(whole - system.matrix).max() < 1e-14 * abs(whole).max()
    load = load_of(system)
    direct = factorise(whole, prefer="superlu").solve(system.T.T @ load.reshape(-1, 2))
    expected = (system.T @ direct).reshape(load.shape)
    assert np.abs(solve(system, load).u - expected).max() < 1e-9 * np.abs(expected).max()


def test_elements_that_begin_to_couple_are_solved_with_all_that_they_couple():
    """Some are moved down by 50 mm, as by a drop or by cracks: B = e A, D + e^2 A."""
    system = solved(flat_slab(2, 1)).outcome.stiffness.system
    pick = np.arange(5, sum(len(f.nodes) for f in system.families), 9)
    (family, *_) = system.families
    own, e = family.sections[pick], 0.05
    moved = with_sections(system, pick, replace(own, B=e * own.A, D=own.D + e**2 * own.A))
    wanted, load = assemble(system.mesh, moved, system.held), load_of(system)
    expected, before = solve(wanted, load).u, solve(system, load).u
    first = renewed(in_turn(system, None), moved)
    assert np.abs(solve(first, load).u - expected).max() < 1e-9 * np.abs(expected).max()
    assert np.abs(expected - before).max() > 0.01 * np.abs(before).max()
    # An edit that makes them couple finds them so on the mesh that there is, and one that makes them couple no more the other way round.
    edited = assemble(system.mesh, moved, system.held, system)
    assert np.abs(solve(edited, load).u - expected).max() < 1e-9 * np.abs(expected).max()
    assert assemble(system.mesh, system.families, system.held, edited).matrix.nnz == system.matrix.nnz < edited.matrix.nnz
    # The system itself has its turn still, and the next one goes on with the pattern that there is.
    assert np.abs(solve(system, load).u - before).max() < 1e-9 * np.abs(before).max()
    back = renewed(in_turn(system, first), system.families)
    assert back.pattern is first.pattern
    assert np.abs(solve(back, load).u - before).max() < 1e-9 * np.abs(before).max()


def test_elements_whose_sections_stay_keep_their_stiffness():
    """Only the new ones are made, and those that stay are not touched."""
    system = solved(flat_slab(2, 1)).outcome.stiffness.system
    (family, *_) = frozen(system, np.zeros(sum(len(f.nodes) for f in system.families)))
    law = family.elastic_law()
    before = family.with_law(law).stiffness
    new = np.arange(3, len(law), 7)
    law[new] *= np.linspace(0.2, 0.8, len(new))[:, None, None]
    marked = before.copy()
    marked[0] = -1.0
    found = family.with_law(law, marked, new).stiffness
    assert (found[1:] == family.with_law(law).stiffness[1:]).all()
    assert (found[0] == -1.0).all()
    assert np.abs(found[new] - before[new]).max() > 0.01 * np.abs(before).max()
