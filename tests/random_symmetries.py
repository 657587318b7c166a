"""Random designs against themselves mirrored, turned by a quarter and by 27.3 degrees, moved, and written otherwise: in another order, with more vertices, in pieces:
``python -m tests.random_symmetries [COUNT] [FIRST]``.

What a floor comes to may not hang on where it lies and how it was drawn. A floor that is only moved or written in another order comes to the same but for
rounding, unless rounding tells its mesh apart; the others have another mesh. So what differs by more than a twentieth is told, to be looked at.
"""

from __future__ import annotations

import copy
import math
import random
import sys
from collections import Counter
from collections.abc import Callable, Iterator
from itertools import pairwise
from typing import Any

from shapely.geometry import Polygon, box

from piastra.core import pipeline
from piastra.core.model import RefusedError, floor_from
from piastra.exchange.results_file import results
from tests.random_designs import random_design

Document = dict[str, Any]
PLACED = ("slabs", "openings", "thickenings", "columns", "walls", "beams", "tendons")


def _placed(
    document: Document, place: Callable[[float, float], list[float]], angle: Callable[[float], float], flip: bool
) -> Document:
    out = copy.deepcopy(document)
    for item in (i for name in PLACED for i in out.get(name, [])):
        for key in {"outline", "line"} & set(item):
            item[key] = [[*place(*p[:2]), *(-b if flip else b for b in p[2:])] for p in item[key]]
        if "at" in item:
            item["at"] = place(*item["at"])
        for key in {"angle_deg", "bar_angle_deg"} & set(item):
            item[key] = angle(item[key])
    for slab in out["slabs"]:
        slab.setdefault("bar_angle_deg", angle(0.0))
    return out


def mirrored(document: Document) -> Document:
    return _placed(document, lambda x, y: [-x, y], lambda a: -a, flip=True)


def turned(document: Document) -> Document:
    return _placed(document, lambda x, y: [-y, x], lambda a: a + 90.0, flip=False)


def askew(document: Document) -> Document:
    c, s = math.cos(math.radians(27.3)), math.sin(math.radians(27.3))
    return _placed(document, lambda x, y: [c * x - s * y, s * x + c * y], lambda a: a + 27.3, flip=False)


def moved(document: Document) -> Document:
    return _placed(document, lambda x, y: [x + 1812.375, y - 2431.25], lambda a: a, flip=False)


def reordered(document: Document) -> Document:
    out, r = copy.deepcopy(document), random.Random(5)
    for name in (*PLACED[1:], "mats", "load_cases"):
        r.shuffle(out.get(name, []))
    for item in (i for name in PLACED[:3] for i in out.get(name, [])):
        first = r.randrange(len(item["outline"]))
        item["outline"] = item["outline"][first:] + item["outline"][:first]
    return out


def with_vertices(document: Document) -> Document:
    """With one more vertex on every straight edge and line: of slabs that share one, at different places."""
    out = copy.deepcopy(document)
    for item in (i for name in (*PLACED[:3], "beams", "walls") for i in out.get(name, [])):
        key = "outline" if "outline" in item else "line"
        ends = [*item[key], item[key][0]] if key == "outline" else item[key]
        halves = [[a, [0.6 * a[0] + 0.4 * b[0], 0.6 * a[1] + 0.4 * b[1]]] if len(a) == 2 else [a] for a, b in pairwise(ends)]
        item[key] = [p for half in halves for p in half] + ([] if key == "outline" else [ends[-1]])
    return out


def in_pieces(document: Document) -> Document:
    """With straight openings, thickenings and beams cut in two."""
    out = copy.deepcopy(document)
    for item in [b for b in out.get("beams", []) if len(b["line"]) == 2]:
        (x0, y0), (x1, y1) = item["line"]
        middle = [x0 + 0.437 * (x1 - x0), y0 + 0.437 * (y1 - y0)]
        item["line"] = [[x0, y0], middle]
        out["beams"].append({**item, "id": f"{item['id']} again", "line": [[x1, y1], middle]})
    for name in PLACED[1:3]:
        for item in list(out.get(name, [])):
            if any(len(p) > 2 for p in item["outline"]):
                continue
            shape = Polygon(item["outline"])
            (x0, y0, x1, y1), at = shape.bounds, shape.bounds[0] + 0.437 * (shape.bounds[2] - shape.bounds[0])
            left, right = shape.intersection(box(x0, y0, at, y1)), shape.intersection(box(at, y0, x1, y1))
            if isinstance(left, Polygon) and isinstance(right, Polygon):
                item["outline"] = [list(p) for p in left.exterior.coords[:-1]]
                out[name].append({**item, "id": f"{item['id']} again", "outline": [list(p) for p in right.exterior.coords[:-1]]})
    return out


def comes_to(document: Document) -> Document:
    """What is compared of a floor: utilisations by check, and of zones by support; reactions, mass, what is left out."""
    outcome = pipeline.solve_floor(floor_from(document), rigorous=False, remedies=False)
    found = results(outcome)
    zones = ((r.label, r.utilisation) for r in outcome.rows if r.check == "punching")
    return {
        **{v.check: v.utilisation for v in outcome.verdict},
        **{f"zone {','.join(sorted(label.split(', ')))}": use for label, use in zones},
        **{f"reaction of {r['support']}": r["values"]["ultimate"]["F_kN"] for r in found["reactions"]},
        "mass": found["steel"]["mass_kg"],
        "left out": Counter((u["check"], u["id"]) for u in found["uncovered"]),
    }


def differences(one: Document, other: Document) -> Iterator[str]:
    """By more than a twentieth; of reactions, of the greatest."""
    most = max(abs(v) for k, v in one.items() if k.startswith("reaction"))
    for name in sorted(one.keys() | other.keys()):
        a, b = one.get(name), other.get(name)
        if isinstance(a, float) and isinstance(b, float):
            if abs(a - b) > 0.05 * (most if name.startswith("reaction") else max(abs(a), abs(b), 0.2)):
                yield f"{name} {a:.3g} {b:.3g}"
        elif a != b:
            yield f"{name} {a} {b}" if name != "left out" else f"left out {list(a - b)} {list(b - a)}"


def main() -> None:
    count, first = (int(a) for a in (*sys.argv[1:3], *("20", "0")[len(sys.argv) - 1 :]))
    for seed in range(first, first + count):
        design = random_design(seed)
        try:
            one = comes_to(design)
        except RefusedError as error:
            print(seed, "refused", error, flush=True)
            continue
        for change in (moved, reordered, mirrored, turned, askew, with_vertices, in_pieces):
            print(seed, change.__name__, "; ".join(differences(one, comes_to(change(design)))), flush=True)


if __name__ == "__main__":
    main()
