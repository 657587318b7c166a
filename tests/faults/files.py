"""Files that mean harm, or are only broken: each is answered within five seconds, and the server's memory does not grow by them.

``python -m tests.faults.files`` starts a server of its own and gives it more than sixty.
"""

from __future__ import annotations

import io
import json
import re
import sys
import tempfile
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path

import httpx
import openpyxl

from tests.exchange.test_dxf import drawing_of, polyline_of
from tests.faults.storm import House
from tests.floors import one_bay
from tests.ifc_models import of_floors

MOST_SECONDS, MOST_BYTES = 5.0, 200e6

HEAD = "0\nSECTION\n2\nENTITIES\n"
TAIL = "0\nENDSEC\n0\nEOF\n"
LINE = "0\nLINE\n8\n0\n10\n0\n20\n0\n11\n{x}\n21\n1\n"


def _book(fill) -> bytes:
    book = openpyxl.Workbook()
    fill(book)
    buffer = io.BytesIO()
    book.save(buffer)
    return buffer.getvalue()


def _with(content: bytes, **parts: bytes) -> bytes:
    """A workbook with some of its parts replaced or added (``a__b`` is the part a/b)."""
    names = {k.replace("__", "/") + ".xml": v for k, v in parts.items()}
    buffer = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as new:
        for item in old.namelist():
            if item not in names:
                new.writestr(item, old.read(item))
        for name, text in names.items():
            new.writestr(name, text)
    return buffer.getvalue()


def drawings() -> Iterator[tuple[str, bytes]]:
    """DXF that is too long, too deep, endless, without end, or none."""
    block = "0\nSECTION\n2\nBLOCKS\n" + "".join(
        f"0\nBLOCK\n8\n0\n2\nB{k}\n10\n0\n20\n0\n" + f"0\nINSERT\n8\n0\n2\nB{k + 1}\n10\n0\n20\n0\n" * 10 + "0\nENDBLK\n" for k in range(12)
    )  # fmt: skip
    selfish = (
        "0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n8\n0\n2\nB0\n10\n0\n20\n0\n0\nINSERT\n8\n0\n2\nB0\n10\n0\n20\n0\n0\nENDBLK\n0\nENDSEC\n"
    )
    insert = "0\nINSERT\n8\n0\n2\nB0\n10\n0\n20\n0\n"
    yield "nothing", b""
    yield "noughts", b"\0" * 100_000
    yield "no drawing", b"%PDF-1.7 " + b"x" * 1000
    yield "half a drawing", (HEAD + LINE.format(x=1))[:40].encode()
    yield "no end", (HEAD + LINE.format(x=1) * 2000).encode()
    yield "many lines", (HEAD + LINE.format(x=1) * 250_000 + TAIL).encode()
    yield "blocks in blocks", (block + "0\nENDSEC\n" + HEAD + insert + TAIL).encode()
    yield "a block in itself", (selfish + HEAD + insert + TAIL).encode()
    yield "an array of a block", (block + "0\nENDSEC\n" + HEAD + insert + "70\n30000\n71\n30000\n44\n1\n45\n1\n" + TAIL).encode()
    yield "far away", (HEAD + LINE.format(x=1e300) + TAIL).encode()
    yield "no number", (HEAD + LINE.format(x="nan") + TAIL).encode()
    yield "a word for a number", (HEAD + LINE.format(x="many") + TAIL).encode()
    yield "codes that are none", ("abc\nLINE\n" * 5000).encode()
    yield "one long line", b"0\n" + b"A" * 5_000_000 + b"\n"
    yield (
        "a curve of many points",
        (HEAD + "0\nLWPOLYLINE\n8\n0\n90\n400000\n70\n1\n" + "10\n1\n20\n2\n" * 400_000 + TAIL).encode(),
    )
    yield "a curve of many points as it should be", polyline_of(95_000)
    yield "a curve of many points, broken", polyline_of(115_000, broken=True)
    yield "a curve of as many as are mended", polyline_of(70_000, broken=True)
    yield "many hatches", (HEAD + "0\nHATCH\n8\nA\n" * 390_000 + TAIL).encode()
    yield "hatches beyond all measure", (HEAD + "0\nHATCH\n8\nA\n" * 2_500_000 + TAIL).encode()
    yield (
        "hatches of many corners",
        (HEAD + ("0\nHATCH\n8\nA\n" + "10\n1\n20\n2\n" * 4_000) * 210 + LINE.format(x=1) + TAIL).encode(),
    )
    yield (
        "many lines as they should be",
        drawing_of(lambda s, d: [s.add_line((k % 200, k // 200), (k % 200 + 1, k // 200)) for k in range(49_000)]),
    )
    yield "many texts", drawing_of(lambda s, d: [s.add_mtext("a{\\fArial;b}", {"insert": (k % 200, k)}) for k in range(19_500)])
    yield (
        "a spline of high degree",
        (HEAD + "0\nSPLINE\n8\n0\n70\n8\n71\n30000\n72\n9\n73\n9\n" + "10\n1\n20\n2\n30\n0\n" * 9 + TAIL).encode(),
    )
    yield "binary", b"\x1a\x00" + b"\xff" * 5000
    yield (
        "many layers",
        ("".join(f"0\nLINE\n8\nL{k}\n10\n0\n20\n0\n11\n1\n21\n1\n" for k in range(20_000)).join((HEAD, TAIL))).encode(),
    )
    yield "names of layers", (HEAD + "0\nLINE\n8\n" + "\u202e<script>" * 2000 + "\n10\n0\n20\n0\n11\n1\n21\n1\n" + TAIL).encode()


def tables() -> Iterator[tuple[str, bytes]]:
    """Spreadsheets and texts that are too large, too wide, that grow, or lie about themselves."""
    plain = _book(lambda b: b.active.append(["id", "G"]))
    sheet = b'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>%s</sheetData></worksheet>'
    laughs = b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "ha">' + b"".join(
        b'<!ENTITY %c "%s">' % (98 + k, b"&%c;" % (97 + k) * 10) for k in range(9)
    ) + b"]>"  # fmt: skip
    outside = b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY e SYSTEM "file:///etc/passwd">]>'
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as bomb:
        bomb.writestr("xl/workbook.xml", b"0" * 900_000_000)
    grown = buffer.getvalue()
    yield "nothing", b""
    yield "no workbook", b"PK\x03\x04" + b"x" * 1000
    yield "half a workbook", plain[: len(plain) // 2]
    yield "a bomb", grown
    yield (
        "a sheet that grows",
        _with(
            plain,
            xl__worksheets__sheet1=sheet
            % (b'<row r="1"><c r="A1" t="inlineStr"><is><t>' + b"A" * 300_000_000 + b"</t></is></c></row>"),
        ),
    )
    yield (
        "a billion laughs",
        _with(plain, xl__worksheets__sheet1=laughs + sheet % b'<row r="1"><c r="A1" t="inlineStr"><is><t>&j;</t></is></c></row>'),
    )
    yield (
        "a file from elsewhere",
        _with(
            plain, xl__worksheets__sheet1=outside + sheet % b'<row r="1"><c r="A1" t="inlineStr"><is><t>&e;</t></is></c></row>'
        ),
    )
    yield (
        "a far cell",
        _with(plain, xl__worksheets__sheet1=sheet % b'<row r="1048576"><c r="XFD1048576" t="n"><v>1</v></c></row>'),
    )
    yield "many rows", _book(lambda b: [b.active.append(["x"] * 20) for _ in range(20_000)])
    yield "wide", _book(lambda b: b.active.append(["x"] * 16_000))
    yield "formulas", _book(lambda b: b.active.append(["=1/0", "=HYPERLINK(1)", "=" + "A1+" * 2000 + "1"]))
    yield "no sheet", _with(plain, xl__workbook=b"<workbook/>")
    yield "unclosed", _with(plain, xl__worksheets__sheet1=b"<worksheet><sheetData><row>")
    yield "deep", _with(plain, xl__worksheets__sheet1=b"<a>" * 100_000 + b"</a>" * 100_000)
    yield "numbers", b"id;G\n" + b"a;1e999\n" * 3000
    yield "commas", b"," * 3_000_000
    yield "quotes", b'"' * 3_000_001
    yield "lines", b"\n" * 3_000_000
    yield "one field", b"a" * 9_000_000
    yield "bytes", bytes(range(256)) * 4000
    yield "two alphabets", "id,G\n\ud7ff,\uffff".encode("utf-16")


def documents() -> Iterator[tuple[str, bytes]]:
    """Floor files that are deep, huge, ambiguous or not what they say."""
    bay = one_bay()

    def with_(**more: object) -> bytes:
        return json.dumps({"document": {**bay, **more}}).encode()

    yield "deep lists", b'{"document":' + b"[" * 400_000 + b"]" * 400_000 + b"}"
    yield "deep objects", b'{"a":' * 200_000 + b"1" + b"}" * 200_000
    yield "long numbers", b'{"document":{"format":"piastra-floor","version":' + b"9" * 4_000_000 + b"}}"
    yield "a number beyond", b'{"document":{"mesh":{"size_m":1e400}}}'
    yield "no number", b'{"document":{"mesh":{"size_m":NaN}}}'
    yield "keys twice", b'{"document":{},"document":{"name":"x"}}'
    yield "many keys", json.dumps({"document": {f"k{k}": k for k in range(200_000)}}).encode()
    yield "many columns", with_(columns=[{**bay["columns"][0], "id": f"C{k}", "at": [k * 1e-3, 0.5]} for k in range(30_000)])
    yield "one name for all", with_(columns=[bay["columns"][0]] * 20_000)
    yield (
        "a slab of many corners",
        with_(slabs=[{**bay["slabs"][0], "outline": [[k * 1e-4, (k % 7) * 1e-3] for k in range(100_000)]}]),
    )
    yield "a slab on itself", with_(slabs=[{**bay["slabs"][0], "outline": [[0, 0], [5, 5], [5, 0], [0, 5]]}])
    yield "many slabs on each other", with_(slabs=[{**bay["slabs"][0], "id": f"S{k}"} for k in range(3000)])
    yield "a tiny mesh", with_(mesh={"size_m": 1e-9})
    yield "a floor as large as a country", with_(slabs=[{**bay["slabs"][0], "outline": [[0, 0], [1e6, 0], [1e6, 1e6], [0, 1e6]]}])
    yield "a long name", with_(name="n" * 5_000_000)
    yield "unseen names", with_(name="a\u202eb\u0000c")
    yield "halves of letters", b'{"document":{"name":"\\ud800"}}'
    yield "not in its alphabet", b'{"document":{"name":"\xff\xfe"}}'
    yield "no JSON", b"{" * 1000
    yield "nothing", b""
    yield "null", b"null"
    yield "an old version", with_(version=99)
    yield (
        "many combinations",
        with_(combinations=[{"id": f"U{k}", "limit_state": "ultimate", "factors": {"G": 1.0}} for k in range(20_000)]),
    )
    yield "loads without number", with_(loads=[{**bay["loads"][0], "id": f"l{k}", "q_kPa": True} for k in range(5000)])


def models() -> Iterator[tuple[str, bytes]]:
    """Building models that are none, half of one, in circles, or beyond all measure."""
    whole = of_floors([("One", 3.0, 3.0, one_bay())], unit=1.0)
    head, _, data = whole.partition(b"DATA;\n")
    yield "nothing", b""
    yield "noughts", b"\0" * 100_000
    yield "no model", b"%PDF-1.7 " + b"x" * 1000
    yield "half a model", whole[: len(whole) // 2]
    yield "no end", head + b"DATA;\n" + data.replace(b"ENDSEC;", b"")
    yield "another schema", whole.replace(b"IFC4", b"IFC9X9")
    yield "far away", re.sub(rb"IFCCARTESIANPOINT\(\([^)]*\)\)", b"IFCCARTESIANPOINT((1.E300,1.E300,1.E300))", whole)
    yield "no number", re.sub(rb"IFCCARTESIANPOINT\(\([^)]*\)\)", b"IFCCARTESIANPOINT(($,$,$))", whole)
    yield "a place in itself", re.sub(rb"(#\d+)=IFCLOCALPLACEMENT\([^,]*,", rb"\1=IFCLOCALPLACEMENT(\1,", whole)
    yield (
        "a shape in itself",
        re.sub(rb"(#\d+)=IFCBOOLEANCLIPPINGRESULT\(\.DIFFERENCE\.,#\d+", rb"\1=IFCBOOLEANCLIPPINGRESULT(.DIFFERENCE.,\1", whole),
    )
    yield "a map of itself", re.sub(rb"(#\d+)=IFCREPRESENTATIONMAP\((#\d+),#\d+", rb"\1=IFCREPRESENTATIONMAP(\2,\1", whole)
    yield (
        "parts of nothing",
        re.sub(rb"#(\d+)=IFCPRODUCTDEFINITIONSHAPE\([^;]*;", rb"#\1=IFCPRODUCTDEFINITIONSHAPE($,$,(#999999));", whole),
    )
    yield "no height", re.sub(rb",([\d.E-]+)\);\n(#\d+=IFCSHAPEREP)", rb",0.);\n\2", whole)
    yield "unseen names", whole.replace(b"'One'", b"'\\X2\\202E0007\\X0\\'")
    yield "a long name", whole.replace(b"'One'", b"'" + b"n" * 2_000_000 + b"'")
    yield (
        "many points",
        head + b"DATA;\n" + b"".join(b"#%d=IFCCARTESIANPOINT((0.,0.));\n" % k for k in range(10_000, 150_000)) + data,
    )
    yield "deep", head + b"DATA;\n#90000=IFCPROPERTYSINGLEVALUE('a',$," + b"(" * 100_000 + b")" * 100_000 + b",$);\n" + data
    yield "one long line", head + b"DATA;\n#90000=IFCLABEL('" + b"A" * 5_000_000 + b"');\n" + data


def give(house: House) -> tuple[int, tuple[float, str], float, list[str]]:
    """How many were given, the longest answer (s, and to which), how far the server's memory grew (bytes), and what was wrong."""
    client = house.client()
    project = client.post("/api/projects", json={"name": "Harm", "standard": "EN 1992-1-1"}).json()["project"]
    floor = client.post(f"/api/projects/{project}/floors", json={"document": {**one_bay(), "name": "Deck"}}).json()["floor"]
    # What any first drawing and table takes is no growth.
    for name, path in (("a.dxf", "drawing"), ("t.xlsx", "combinations/read")):
        client.post(f"/api/floors/{floor}/{path}?name={name}", content=(HEAD + LINE.format(x=1) + TAIL).encode())
    (server,) = house.processes("server")
    held, longest, count, wrong = server.memory_info().rss, (0.0, ""), 0, []
    most = held
    given = [
        *(
            (f"drawing: {name}", f"/api/floors/{floor}/drawing?name=a.dxf", content, "application/octet-stream")
            for name, content in drawings()
        ),
        *(
            (f"table: {name}", f"/api/floors/{floor}/combinations/read?name=t.xlsx", content, "application/octet-stream")
            for name, content in tables()
        ),
        *(
            (f"joint loads: {name}", f"/api/floors/{floor}/joint-loads/read?name=t.csv", content, "application/octet-stream")
            for name, content in tables()
        ),
        *(
            (f"variants: {name}", f"/api/projects/{project}/studies/read?name=t.xlsx", content, "application/octet-stream")
            for name, content in tables()
        ),
        *(
            (f"model: {name}", "/api/projects/model?name=m.ifc", content, "application/octet-stream")
            for name, content in models()
        ),
        *((f"floor: {name}", f"/api/projects/{project}/floors", content, "application/json") for name, content in documents()),
    ]
    for name, path, content, kind in given:
        begun = time.perf_counter()
        try:
            answer = client.post(path, content=content, headers={"content-type": kind}, timeout=40)
        except httpx.HTTPError as error:
            wrong.append(f"{name}: {type(error).__name__} after {time.perf_counter() - begun:.0f} s")
            continue
        took = time.perf_counter() - begun
        count += 1
        longest = max(longest, (took, name))
        most = max(most, server.memory_info().rss)
        if took > MOST_SECONDS:
            wrong.append(f"{name}: {took:.1f} s")
        if answer.status_code >= 500:
            wrong.append(f"{name}: {answer.status_code} {answer.text[:150]}")
        if len(answer.content) > 200_000 and answer.status_code >= 400:
            wrong.append(f"{name}: an answer of {len(answer.content)} bytes")
        if answer.status_code == 201 and kind == "application/json":
            # What is a floor after all is not computed here.
            client.put(f"/api/floors/{answer.json()['floor']}/away", json={"away": True})
        if client.get("/api/health").elapsed.total_seconds() > 1:
            wrong.append(f"{name}: others had to wait")
    if most - held > MOST_BYTES:
        wrong.append(f"the server grew by {(most - held) / 1e6:.0f} MB")
    return count, longest, most - held, wrong


def main() -> None:
    """Give them, and tell."""
    with tempfile.TemporaryDirectory() as folder, House(Path(folder), projects=0) as house:
        count, longest, grown, wrong = give(house)
    print(f"{count} files, longest answer {longest[0]:.1f} s ({longest[1]}), memory grew by {grown / 1e6:.0f} MB")
    print("\n".join(wrong) or "each was answered")
    if wrong:
        sys.exit(1)


if __name__ == "__main__":
    main()
