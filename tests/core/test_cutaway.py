"""A section shows what the computation uses."""

from piastra.core.model import floor_from
from piastra.core.model.cutaway import section_along
from tests.floors import flat_slab


def test_a_section_through_slab_drop_beam_opening_and_column():
    document = flat_slab(2, 1)
    document["thickenings"] = [{"id": "T1", "outline": [[5, -0.2], [7, -0.2], [7, 1], [5, 1]], "thickness_m": 0.4}]
    document["openings"] = [{"id": "O1", "outline": [[2, -0.1], [3, -0.1], [3, 1], [2, 1]]}]
    document["beams"] = [
        {"id": "B1", "line": [[9, 0], [9, 6]], "width_m": 0.3, "depth_m": 0.6, "top_offset_m": 0.1, "concrete": "C30"}
    ]
    cut = section_along(floor_from(document), [[-1, 0.5], [14, 0.5]])
    pieces = [(p.list, p.id, round(p.start, 6), round(p.end, 6), round(p.bottom, 6), round(p.top, 6)) for p in cut]
    assert pieces == [
        ("slabs", "S1", 0.8, 3.0, -0.25, 0.0),
        ("slabs", "S1", 4.0, 6.0, -0.25, 0.0),
        ("thickenings", "T1", 6.0, 8.0, -0.4, 0.0),
        ("slabs", "S1", 8.0, 9.85, -0.25, 0.0),
        ("beams", "B1", 9.85, 10.15, -0.5, 0.1),
        ("slabs", "S1", 10.15, 13.2, -0.25, 0.0),
    ]
    through = section_along(floor_from(document), [[-1, 0.0], [14, 0.0]])
    column = [p for p in through if p.id == "C10"]
    assert [(round(p.start, 6), round(p.end, 6), round(p.bottom, 6), round(p.top, 6)) for p in column] == [
        (6.8, 7.2, -3.6, -0.4),
        (6.8, 7.2, 0.0, 3.2),
    ]
