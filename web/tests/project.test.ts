import { beforeEach, describe, expect, it, vi } from "vitest";

const asked: { based_on: number; document: { name: string }; line: string }[] = [];
let head = 4;

vi.mock("../src/api/client", () => ({
  problemsOf: () => [],
  api: {
    // A server that refuses what is not based on its newest revision, and takes its time.
    PUT: async (_: string, given: { body: (typeof asked)[number] }) => {
      await new Promise((r) => setTimeout(r, 2));
      asked.push(given.body);
      if (given.body.based_on !== head)
        return { error: { sentence: "late", author: "Bo", line: "theirs" }, response: { status: 409 } };
      head += 1;
      return { data: { revision: head, line: given.body.line }, response: { status: 200 } };
    },
  },
}));

const { projectPart } = await import("../src/session/project");
const { selectionPart } = await import("../src/session/selection");
const { useDisplay } = await import("../src/display/display");

function session() {
  const told: string[] = [];
  const state: Record<string, unknown> = {
    projects: [{ id: 1, role: "designer" }],
    floor: { project_id: 1 },
    project: { id: 1, revision: head, document: { name: "" } },
    say: (text: string) => told.push(text),
    reload: async () => {
      const last = asked[asked.length - 1];
      state.project = { id: 1, revision: head, document: last?.document };
    },
  };
  const set = (some: object) => void Object.assign(state, some);
  return { part: projectPart(set as never, (() => state) as never), told, state, set };
}
const adding = (letter: string) => ({
  line: letter,
  change: (p: { name: string }) => ({ ...p, name: p.name + letter }),
});

describe("changes of a project", () => {
  beforeEach(() => {
    asked.length = 0;
  });
  it("are made in turn, each on the one before it", async () => {
    const { part, told } = session();
    const from = head;
    const done = await Promise.all([part.editProject(adding("a") as never), part.editProject(adding("b") as never)]);
    expect(done).toEqual([true, true]);
    expect(asked.map((a) => [a.based_on - from, a.document.name])).toEqual([
      [0, "a"],
      [1, "ab"],
    ]);
    expect(told).toEqual(["a", "b"]);
  });
  it("that come after somebody else's are told, and lost on nobody", async () => {
    const { part, told } = session();
    head += 1;
    expect(await part.editProject(adding("a") as never)).toBe(false);
    expect(told[0]).toContain("Bo changed the project: theirs. Yours was not made");
  });
});

describe("a difference", () => {
  it("ends with the step in which it was asked for, and not with looking at the same one again", () => {
    const { set, state } = session();
    const part = selectionPart(set as never, (() => state) as never);
    state.step = "analyse";
    const minus = { run: 3, revision: 2 } as never;
    useDisplay.getState().show({ minus });
    part.setStep("analyse");
    expect(useDisplay.getState().minus).toEqual(minus);
    part.setStep("steel");
    expect(useDisplay.getState().minus).toBeNull();
  });
});
