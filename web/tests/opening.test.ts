import { afterEach, expect, it, vi } from "vitest";

type Asked = { path: string; id: number; answer: () => void };
const asked: Asked[] = [];

vi.mock("../src/api/client", () => ({
  api: {
    GET: (path: string, of?: { params: { path: Record<string, number> } }) =>
      new Promise((resolve) => {
        const id = Object.values(of?.params.path ?? { none: 0 })[0] as number;
        const data = path.endsWith("{floor_id}")
          ? { id, project_id: 10 * id, revision: 1, document: { name: `F${id}` }, run: null, fresh: null }
          : path.endsWith("{project_id}")
            ? { id, revision: 1, document: { name: `P${id}` } }
            : { findings: [] };
        asked.push({ path, id, answer: () => resolve({ data }) });
      }),
  },
  problemsOf: () => [],
}));
vi.stubGlobal("history", { replaceState: () => undefined });
vi.stubGlobal(
  "EventSource",
  class {
    addEventListener() {}
    close() {}
  },
);
vi.stubGlobal("localStorage", { getItem: () => null, setItem: () => undefined });

const settled = () => new Promise((r) => setTimeout(r, 0));
const answer = async (path: string, id: number) => {
  for (const a of asked.splice(0))
    if (a.path.endsWith(path) && a.id === id) a.answer();
    else asked.push(a);
  await settled();
};

afterEach(() => vi.clearAllMocks());

it("shows the floor that was asked for last, and its project, whichever answers last", async () => {
  const { useSession } = await import("../src/session");
  const open = (id: number) => void useSession.getState().open(id);
  const shown = () => [useSession.getState().floor?.id, useSession.getState().project?.id];
  // The second answers first, and the first one after it.
  open(1);
  open(2);
  await answer("{floor_id}", 2);
  await answer("{floor_id}", 1);
  expect(shown()[0]).toBe(2);
  await answer("{project_id}", 20);
  expect(shown()).toEqual([2, 20]);
  // The first one's project is still on its way when the second is opened.
  open(3);
  await answer("{floor_id}", 3);
  open(4);
  await answer("{floor_id}", 4);
  await answer("{project_id}", 40);
  await answer("{project_id}", 30);
  expect(shown()).toEqual([4, 40]);
});
