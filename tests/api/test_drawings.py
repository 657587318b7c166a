"""Drawings under floors through the API."""

import io
import re

import ezdxf
import pytest

from piastra.demo.architect import architects_drawing
from tests.floors import one_bay


@pytest.fixture(scope="module")
def floor(server):
    with server.client() as client:
        made = client.post("/api/projects", json={"name": "Drawn quay"}).json()
        yield client, made["floor"]


def test_a_drawing_is_laid_under_a_floor_recognised_and_taken_away(floor):
    client, number = floor
    assert client.get(f"/api/floors/{number}/drawing").json() is None
    assert client.post(f"/api/floors/{number}/drawing/recognise", json={"layers": {"A": "slabs"}}).status_code == 404
    laid = client.post(f"/api/floors/{number}/drawing?name=ground.dxf", content=architects_drawing())
    assert laid.status_code == 201
    kept = client.get(f"/api/floors/{number}/drawing").json()
    assert kept == laid.json()
    assert {layer["name"] for layer in kept["layers"]} >= {"A-SLAB EDGE", "A-COLS", "A-FURNITURE"}
    got = client.post(f"/api/floors/{number}/drawing/recognise", json={"layers": {"A-COLS": "columns"}}).json()
    assert (len(got["columns"]), got["slabs"]) == (12, [])
    refused = client.post(f"/api/floors/{number}/drawing/recognise", json={"layers": {"A-COLS": "pillars"}})
    assert (refused.status_code, refused.json()["problems"][0]["path"]) == (422, "layers")
    broken = client.post(f"/api/floors/{number}/drawing", content=b"no drawing")
    assert broken.status_code == 422
    assert client.get(f"/api/floors/{number}/drawing").json() == kept
    assert client.delete(f"/api/floors/{number}/drawing").status_code == 204
    assert client.get(f"/api/floors/{number}/drawing").json() is None


def test_a_floor_is_given_as_a_drawing_and_as_a_file(server):
    with server.client() as client:
        projects = {p["name"]: p["floors"] for p in client.get("/api/projects").json()}
        number = projects["Saltmarsh Field Station"][0]["id"]
        got = client.get(f"/api/floors/{number}/dxf")
        assert got.headers["content-disposition"].endswith('.dxf"')
        layers = {e.dxf.layer for e in ezdxf.read(io.StringIO(got.text)).modelspace()}
        assert {"SLABS", "COLUMNS", "WALLS", "GRID"} <= layers
        assert client.get(f"/api/floors/{number}/file").json()["format"] == "piastra-floor"


def test_a_run_is_reported_as_a_page_and_as_pdf(server):
    with server.client() as client:
        project = client.get("/api/projects").json()[0]["id"]
        made = client.post(f"/api/projects/{project}/floors", json={"document": {**one_bay(), "name": "Zeal report"}}).json()[
            "floor"
        ]
        run = server.settled(made)["fresh"]["id"]
        client.put(f"/api/floors/{made}/away", json={"away": True})
        assert [c["key"] for c in client.get("/api/report-chapters").json()][:2] == ["verdict", "basis"]
        page = client.get(f"/api/runs/{run}/report.html", params={"chapter": ["verdict:summary", "materials"]})
        assert page.status_code == 200
        assert 'id="materials"' in page.text
        assert 'id="loads"' not in page.text
        assert "Zeal report" in page.text
        answer = client.get(f"/api/runs/{run}/report.pdf", params={"chapter": "verdict:summary"}, timeout=120)
        assert answer.headers["content-type"] == "application/pdf"
        assert answer.content.startswith(b"%PDF-")
        # Sagging and hogging both ways, and the deflection.
        drawn = client.get(f"/api/runs/{run}/report.html", params={"chapter": ["moments", "deflection"]}).text
        captions = re.findall(r"<figcaption>([^<]*)</figcaption>", drawn)
        assert [c.partition(" moment")[0] for c in captions[:4]] == ["Sagging", "Sagging", "Hogging", "Hogging"]
        assert captions[4].startswith("Deflection")
        peaks = [float(x.replace("−", "-")) for x in re.findall(r'class="(?:greatest)"[^>]*>([^<]*)<', drawn)]
        with_creep = next(s for s in client.get(f"/api/runs/{run}/results").json()["sags"])
        assert peaks[-1] >= with_creep["sag_mm"] - 0.1
        for wrong in ("weather", "verdict:loud"):
            refused = client.get(f"/api/runs/{run}/report.html", params={"chapter": wrong})
            assert refused.status_code == 422
            assert wrong in refused.json()["problems"][0]["sentence"]
        assert client.get("/api/runs/999999/report.html").status_code == 404
