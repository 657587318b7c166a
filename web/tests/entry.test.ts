import { beforeEach, describe, expect, it, vi } from "vitest";
import { fetchOwn, reaches, useEntry } from "../src/api/entry";

type Sent = { url: string; guard: string | null; body: unknown };
const sent: Sent[] = [];
let answers: Record<string, (() => { status: number; told: unknown })[]>;

const person = (id: number) => ({
  id,
  name: "Ada",
  email: "ada@example.org",
  administrator: false,
  begins: true,
  roles: {},
});
const me = (guard: string, id = 1) => ({ person: person(id), guard, demo: false });
const said = (status: number, told: unknown = {}) => ({ status, told });
const turn = () => new Promise((done) => setTimeout(done, 3));

beforeEach(() => {
  sent.length = 0;
  answers = {};
  useEntry.setState({ me: me("first") as never, state: "in" });
  vi.stubGlobal("location", { reload: vi.fn(), pathname: "/" });
  vi.stubGlobal("fetch", async (input: string, init?: RequestInit) => {
    sent.push({ url: input, guard: new Headers(init?.headers).get("x-piastra-guard"), body: init?.body });
    const next = answers[input]?.shift()?.() ?? said(200);
    return { status: next.status, ok: next.status < 300, json: async () => next.told };
  });
});

describe("what is asked for in one's own name", () => {
  it("names the guard of the sign-in", async () => {
    await fetchOwn("/api/floors/1", { method: "PUT", body: "{}" });
    expect(sent).toEqual([{ url: "/api/floors/1", guard: "first", body: "{}" }]);
  });
  it("waits when the sign-in is over, and is asked for again with all that it carried", async () => {
    answers = {
      "/api/floors/1": [() => said(401)],
      "/api/me": [() => said(200, { person: null, guard: "", demo: false })],
    };
    const saved = fetchOwn("/api/floors/1", { method: "PUT", body: "typed" });
    await turn();
    expect(useEntry.getState().state).toBe("out");
    expect(sent.filter((s) => s.url === "/api/floors/1")).toHaveLength(1);
    useEntry.getState().take(me("second") as never);
    expect((await saved).status).toBe(200);
    expect(sent[sent.length - 1]).toEqual({ url: "/api/floors/1", guard: "second", body: "typed" });
    expect(location.reload).not.toHaveBeenCalled();
  });
  it("takes up the guard of a sign-in on another page, and gives up where it is refused all the same", async () => {
    answers = {
      "/api/floors/1": [() => said(403), () => said(200), () => said(403)],
      "/api/me": [() => said(200, me("other")), () => said(200, me("other"))],
    };
    expect((await fetchOwn("/api/floors/1")).status).toBe(200);
    expect(sent[sent.length - 1]?.guard).toBe("other");
    expect((await fetchOwn("/api/floors/1")).status).toBe(403);
  });
  it("is not sent in the name of somebody else who signs in on the page", () => {
    useEntry.getState().lost();
    useEntry.getState().take(me("theirs", 2) as never);
    expect(location.reload).toHaveBeenCalled();
    expect(useEntry.getState().state).toBe("out");
  });
});

describe("roles", () => {
  it("reach what takes a lesser one", () => {
    expect((["reader", "checker", "designer", "owner"] as const).map((r) => reaches(r, "designer"))).toEqual([
      false,
      false,
      true,
      true,
    ]);
    expect(reaches(undefined, "reader")).toBe(false);
  });
});
