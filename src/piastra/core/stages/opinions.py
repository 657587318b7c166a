"""What hand methods say of columns' forces and moments."""

from __future__ import annotations

from piastra.core.model import Floor
from piastra.core.opinion.opinions import Opinion, Places, opinions, places
from piastra.core.stages.build import Made, Stage
from piastra.core.stages.given_loads import loading
from piastra.core.stages.loads import LOADS
from piastra.core.stages.mesh import MESH
from piastra.core.stages.plan import PLAN
from piastra.core.stages.stations import STATIONS
from piastra.core.stages.view import ALL, only
from piastra.core.standards import standard_named


def _where(floor: Floor) -> Floor:
    return only(floor, "standard", "parameters", columns=ALL, walls=ALL, supports=ALL, concretes=ALL, slabs=("concrete",))


def _places(floor: Floor, made: Made[Places]) -> Places:
    standard = standard_named(floor.standard, floor.parameters)
    moduli = {c.id: standard.materials.modulus(c) for c in floor.concretes}
    stations, meshed, plan = made[STATIONS], made[MESH], made[PLAN]
    slab_of = plan.slab[meshed.face]
    return places(
        floor, meshed.elements, slab_of, plan.region, stations.layout, stations.cuts, moduli, standard.torsional_members,
    )  # fmt: skip


def _make(floor: Floor, made: Made[tuple[Opinion, ...]]) -> tuple[Opinion, ...]:
    return opinions(floor, made[LOADS], made[OPINION_PLACES])


OPINION_PLACES = Stage("opinion places", _where, _places, (MESH, PLAN, STATIONS))
OPINIONS = Stage("opinions", loading, _make, (LOADS, OPINION_PLACES))
