"""Requests that are too large, for somebody else, or of what no floor has: each is refused with a sentence, and nothing breaks."""

import asyncio
import contextlib
import io
import json
import re
import socket
import ssl
from concurrent.futures import ThreadPoolExecutor
from types import SimpleNamespace

import openpyxl
import psutil
import pytest
from fastapi import Response
from sqlalchemy.exc import OperationalError

from piastra.api import bounds
from piastra.api.bounds import LARGEST, MOST_OBJECTS
from piastra.api.health import ready
from piastra.engine import engine
from tests.conftest import ROOT
from tests.floors import one_bay

JSON = {"content-type": "application/json"}
LINES = [
    [],
    [[0, 0]],
    [[True, False], [1, 1]],
    [[1e308, 0], [0, 1e308]],
    [["a", 0], [1, 1]],
    [[0], [1]],
    [[0, 0], [1, 1], [2, 2]],
]


@pytest.fixture(scope="module")
def settled(server):
    with server.client() as client:
        project = client.get("/api/projects").json()[0]["id"]
        made = client.post(f"/api/projects/{project}/floors", json={"document": {**one_bay(), "name": "Bounds"}})
        floor = made.json()["floor"]
    return project, floor, server.settled(floor)["fresh"]["id"]


def told(answer, status, words=""):
    assert answer.status_code == status, answer.text[:300]
    problems = answer.json()["problems"]
    assert all(p["sentence"] for p in problems)
    assert words in " ".join(p["sentence"] for p in problems)


def test_lines_and_places_that_no_floor_has_are_refused(server, settled):
    _, floor, run = settled
    with server.client() as client:
        for line in [*LINES, "NaN"]:
            body = json.dumps({"line": line, "quantity": "mx", "of": "G"}).replace('"NaN"', "[[NaN, 0], [1, 1]]")
            told(client.post(f"/api/runs/{run}/slice", content=body, headers=JSON), 422)
            told(client.post(f"/api/floors/{floor}/section", content=body, headers=JSON), 422)
        for at in ([[1e308, 0]], [[True, False]], [["x", 1]], [[0]]):
            told(client.post(f"/api/runs/{run}/places", json={"at": at, "of": "G"}), 422)
        told(client.get(f"/api/runs/{run}/value", params={"of": "G", "quantity": "w", "x": "inf", "y": 1}), 422)
        told(client.get(f"/api/runs/{run}/value", params={"of": "G", "quantity": "w", "x": 1e9, "y": 1}), 422)


@pytest.mark.parametrize("name", ["a\0b", "\u202eabc", "a\x7f", "a\u2028b", "\ud800", "line\nbreak"])
def test_names_that_are_not_all_seen_are_refused_everywhere(server, settled, name):
    project, floor, _ = settled
    with server.client() as client:
        state = client.get(f"/api/floors/{floor}").json()

        def sent(method, url, body):
            return client.request(method, url, content=json.dumps(body).encode(), headers=JSON)

        told(sent("POST", "/api/projects", {"name": name}), 422)
        told(sent("POST", "/api/projects", {"name": "Yard", "units": name}), 422)
        told(sent("POST", f"/api/projects/{project}/floors", {"name": name}), 422)
        told(sent("PUT", f"/api/floors/{floor}/level", {"level": name}), 422)
        document = {**state["document"], "slabs": [{**state["document"]["slabs"][0], "id": name}]}
        told(sent("PUT", f"/api/floors/{floor}", {"based_on": state["revision"], "document": document, "line": "x"}), 422)
        told(sent("POST", "/api/tokens", {"name": name, "days": 1}), 422)
        told(sent("POST", f"/api/projects/{project}/links", {"role": "reader", "note": name}), 422)
        assert client.get(f"/api/floors/{floor}").json()["revision"] == state["revision"]


def test_unknown_addresses_and_other_hosts_are_told_so(server, settled):
    with server.client() as client:
        told(client.get("/api/nothing"), 404, "no address")
        told(client.post("/api/nothing/else"), 404)
        told(client.get("/api/floors/99999/events"), 404)
        told(client.get("/api/floors/999999999999999999999"), 404)
        told(client.get("/api/projects", headers={"Host": "elsewhere.example"}), 421, "PIASTRA_HOSTS")
        assert client.get("/api/projects", headers={"Host": f"localhost:{server.port}"}).status_code == 200
        assert client.get("/any/page").headers["content-type"].startswith("text/html")


def test_large_bodies_are_refused_before_they_are_read(server):
    with server.client() as client:
        told(client.post("/api/projects", content=b'{"name":"' + b"x" * LARGEST + b'"}', headers=JSON), 413, "10 MB")
    # One that does not tell its size is cut off where it passes the limit.
    chunk = b"%x\r\n" % 2**16 + b"x" * 2**16 + b"\r\n"
    with socket.create_connection(("127.0.0.1", server.port), timeout=30) as s:
        s.sendall(
            b"POST /api/projects HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/json\r\nTransfer-Encoding: chunked\r\n"
            + f"Authorization: {client.headers['authorization']}\r\n\r\n".encode()
        )
        # Nor is the answer lost to one who sends all of it before looking.
        for _ in range(2 * LARGEST // 2**16):
            s.sendall(chunk)
        s.sendall(b"0\r\n\r\n")
        assert b" 413 " in s.recv(4096).split(b"\r\n")[0]


def test_tables_bear_no_formulas_and_spreadsheets_are_bounded(server, settled):
    _, floor, _ = settled
    table = {"title": "a\x01/b", "columns": ["=1+1", "b"], "rows": [["=HYPERLINK(1)", "+x"], ["-2.5", "@x\x07"], [-2.5, None]]}
    with server.client() as client:
        text = client.post("/api/table.csv", json=table).content.decode("utf-8-sig").split("\r\n")
        assert text[:4] == ["'=1+1,b", "'=HYPERLINK(1),'+x", "-2.5,'@x\x07", "-2.5,"]
        sheet = openpyxl.load_workbook(io.BytesIO(client.post("/api/table.xlsx", json=table).content)).active
        assert [[c.value for c in row] for row in sheet] == [["=1+1", "b"], ["=HYPERLINK(1)", "+x"], ["-2.5", "@x"], [-2.5, None]]
        assert {c.data_type for row in sheet for c in row} <= {"s", "n"}
        address = f"/api/floors/{floor}/combinations/read"
        for content in (("," * 600 + "\n") * 400, "a;b\n" + "1;2;3;4;5;6;7;8\n" * 15_000):
            told(client.post(address, params={"name": "t.csv"}, content=content.encode()), 422, "100,000 cells")
        for content in (b"PK\x03\x04broken", b"\xff\xfe\x00", b'"' * 200_001):
            told(client.post(address, params={"name": "t"}, content=content), 422)
        book = openpyxl.Workbook()
        for _ in range(1200):
            book.active.append(["x"] * 100)
        buffer = io.BytesIO()
        book.save(buffer)
        told(client.post(address, params={"name": "t.xlsx"}, content=buffer.getvalue()), 422, "100,000 cells")


def test_every_answer_tells_the_browser_what_it_may_do_with_it(server):
    """Pages, answers, refusals and files alike; no script may stand in a page, and nobody may show it in his own."""
    with server.client() as client:
        answers = [
            client.get("/"),
            client.get("/api/projects"),
            client.get("/api/nothing"),
            client.get("/assets/none.js"),
            client.get("/api/projects", headers={"host": "elsewhere.example"}),
            client.post("/api/projects", content=b"x" * (LARGEST + 1), headers=JSON),
        ]
    assert [a.status_code for a in answers] == [200, 200, 404, 404, 421, 413]
    for answer in answers:
        policy = {p.split()[0]: p.split()[1:] for p in answer.headers["content-security-policy"].split("; ")}
        assert policy["script-src"] == ["'self'"]
        assert policy["frame-ancestors"] == ["'none'"]
        assert policy["object-src"] == ["'none'"]
        assert answer.headers["x-content-type-options"] == "nosniff"
        assert answer.headers["referrer-policy"] == "no-referrer"
        assert "server" not in answer.headers
        # Whoever is led to an answer by its address gets a file, never a page.
        if answer.headers["content-type"].startswith("application/json"):
            assert answer.headers["content-disposition"].startswith("attachment")
        assert answer.headers.get("cache-control") == (
            "no-store" if "/api" in answer.url.path else answer.headers.get("cache-control")
        )
    assert "<script>" not in answers[0].text


def test_files_go_out_compressed_to_who_takes_them_so_and_are_asked_for_once(server):
    """A page's scripts are three times as large as they are compressed; a browser that has them asks for none again."""
    with server.client() as client:
        names = re.findall(r"/assets/[^\"]+\.(?:js|css)", client.get("/").text)
        fonts = [f"/assets/{file.name}" for file in (ROOT / "web/dist/assets").glob("*.woff2")]
        assert names
        assert fonts
        for name in [*names, *fonts[:1]]:
            plain, packed, refused = (
                client.get(name, headers={"accept-encoding": takes}) for takes in ("identity", "br, gzip", "gzip;q=0, identity")
            )
            assert plain.content == packed.content == refused.content
            assert plain.headers["content-type"] == packed.headers["content-type"]
            assert "content-encoding" not in {*plain.headers, *refused.headers}
            if name in names:
                assert packed.headers["content-encoding"] == "gzip"
                assert int(packed.headers["content-length"]) < 0.4 * len(plain.content)
                assert client.get(name, headers={"if-none-match": packed.headers["etag"]}).status_code == 304
            for answer in (plain, packed):
                assert answer.headers["cache-control"] == "public, max-age=31536000, immutable"
                assert answer.headers["vary"] == "Accept-Encoding"
        assert client.get("/").headers["cache-control"] == "no-cache"
        for path in ("/assets/none.js", "/assets/%2e%2e/index.html", "/assets/"):
            answer = client.get(path)
            assert (answer.status_code, answer.headers.get("cache-control")) == (404, None)


def test_whether_it_lives_and_can_work_is_told(server):
    with server.client() as client:
        assert client.get("/api/health").json() == {"engine": engine()}
        answer = client.get("/api/ready")
        assert answer.status_code == 200
        assert answer.json()["database"]
        assert answer.json()["workers"] >= 1


class Gone:
    """A session whose database does not answer."""

    def execute(self, statement):
        raise OperationalError("select 1", {}, Exception("gone"))


@pytest.mark.parametrize(("session", "workers"), [(Gone(), 1), (SimpleNamespace(execute=lambda s: None), 0)])
def test_what_it_lacks_makes_it_not_ready(session, workers):
    response = Response()
    found = ready(session, SimpleNamespace(workers=workers), response)
    assert not found.ready
    assert response.status_code == 503


def heard(port, secured):
    """What who has no certificate hears at a port."""
    ask = b"GET %s HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n"
    for path in (b"/", b"/health", b"/metrics", b"/json/counts.json", b"/info/main/workers.html", b"/api/v1/get_workers"):
        with (
            socket.create_connection(("127.0.0.1", port), timeout=10) as plain,
            contextlib.suppress(ssl.SSLError, ConnectionError),
            secured.wrap_socket(plain) if secured else contextlib.nullcontext(plain) as link,
        ):
            link.sendall(ask % path)
            yield link.recv(12)


def test_the_cluster_hears_only_who_has_its_certificate(server):
    """Whoever reached the scheduler or a worker could run what he likes: what they listen on is encrypted and asks for a certificate; pages are not shown."""
    family = [psutil.Process(server.process.pid), *psutil.Process(server.process.pid).children(recursive=True)]
    ports = {c.laddr.port for p in family for c in p.net_connections("tcp") if c.status == psutil.CONN_LISTEN} - {server.port}
    assert len(ports) >= 4
    anybody = ssl.create_default_context()
    anybody.check_hostname, anybody.verify_mode = False, ssl.CERT_NONE
    for port in ports:
        plain = set(heard(port, None))
        assert plain <= {b"", b"HTTP/1.1 404"}, port
        if b"HTTP/1.1 404" not in plain:
            assert set(heard(port, anybody)) <= {b""}, port


def test_a_floor_of_more_objects_than_a_floor_has_is_refused_before_they_are_looked_at(server):
    column = {"id": "C", "at": [0.0, 0.0]}
    document = {"name": "Crowded", "columns": [column] * (MOST_OBJECTS + 1)}
    with server.client() as client:
        project = client.get("/api/projects").json()[0]
        for method, path, body in (
            ("POST", f"/api/projects/{project['id']}/floors", {"document": document}),
            ("PUT", f"/api/floors/{project['floors'][0]['id']}", {"based_on": 1, "document": document, "line": "crowded"}),
            ("POST", "/api/projects/file", {"file": {"project": {"name": "Zeal crowd"}, "floors": [{"document": document}]}}),
        ):
            answer = client.request(method, path, json=body)
            # That alone: each of them would be refused for what it lacks.
            assert (answer.status_code, answer.text.count("sentence")) == (422, 1), answer.text[:300]
            assert "20,000 of a kind" in answer.text


def test_bodies_that_do_not_come_hold_up_nobody(server):
    links = []
    with server.client() as client:
        for _ in range(60):
            link = socket.create_connection(("127.0.0.1", server.port), timeout=20)
            link.sendall(
                b"POST /api/projects HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/json\r\nContent-Length: 100\r\n"
                + f"Authorization: {client.headers['authorization']}\r\n\r\n".encode()
                + b"{"
            )
            links.append(link)
        # It asks the database, and has its answer while all of them are still waited for.
        assert client.get("/api/ready").status_code == 200
    for link in links:
        link.setblocking(False)
        with pytest.raises(BlockingIOError):
            link.recv(1)
        link.close()


def in_a_loop(work):
    """Run it in a thread: the browser's tests keep a loop in this one."""
    with ThreadPoolExecutor(1) as thread:
        thread.submit(asyncio.run, work).result()


def test_a_body_that_does_not_come_whole_is_told_off_in_time(monkeypatch):
    monkeypatch.setattr(bounds, "BODY_SECONDS", 0.2)
    monkeypatch.setattr(bounds, "LINGER_SECONDS", 0.1)
    parts = [{"type": "http.request", "body": b"{", "more_body": True}]
    sent = []

    async def receive():
        if parts:
            return parts.pop()
        await asyncio.sleep(3600)

    async def send(message):
        sent.append(message)

    async def reads(scope, receive, send):
        try:
            while (await receive()).get("more_body"):
                pass
        except Exception:
            # As what reads bodies does: it answers in its own way.
            await send({"type": "http.response.start", "status": 400, "headers": []})

    scope = {"type": "http", "path": "/api/projects", "headers": [(b"host", b"localhost")]}
    in_a_loop(bounds.Bounds(reads)(scope, receive, send))
    assert [m["status"] for m in sent if "status" in m] == [408]

    # Who sent all of it and waits for an answer is not hurried.
    async def waits(scope, receive, send):
        await receive()
        with pytest.raises(TimeoutError):
            await asyncio.wait_for(receive(), 0.5)
        await send({"type": "http.response.start", "status": 200, "headers": []})

    parts.append({"type": "http.request", "body": b"{}", "more_body": False})
    sent.clear()
    in_a_loop(bounds.Bounds(waits)(scope, receive, send))
    assert [m["status"] for m in sent if "status" in m] == [200]
