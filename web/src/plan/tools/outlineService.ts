import { api, problemsOf } from "../../api/client";
import { nameOf } from "../../kinds";
import { added, mapped, removed } from "../../kinds/edits";
import { itemOf, type Ref, type Vertex } from "../../model/floor";
import type { Point } from "../../model/outlines";
import { useSession } from "../../session";

type Operation = "join" | "cut" | "subtract";

/** Outlines joined, cut by a line, or one less the others: computed by the server, arcs kept. */
async function operate(operation: Operation, outlines: Vertex[][], line: Point[] | null): Promise<Vertex[][] | null> {
  const { data, error } = await api.POST("/api/outlines", { body: { operation, outlines, line } });
  if (!data) {
    useSession.setState({ problems: problemsOf(error) });
    return null;
  }
  return data.outlines;
}

function outlined(refs: Ref[]): { ref: Ref; outline: Vertex[] }[] {
  const document = useSession.getState().document;
  return refs.flatMap((ref) => {
    const outline = document ? (itemOf(document, ref)?.outline as Vertex[] | undefined) : undefined;
    return outline ? [{ ref, outline }] : [];
  });
}

/** Makes one object of several of one kind; the first one's properties hold. */
export async function joinSelected(): Promise<void> {
  const session = useSession.getState();
  const picked = outlined(session.chosen);
  const [first] = picked;
  if (picked.length < 2 || !first || picked.some((p) => p.ref.kind !== first.ref.kind)) {
    session.say("Select two or more objects of one kind that have outlines, then join them.");
    return;
  }
  const made = await operate(
    "join",
    picked.map((p) => p.outline),
    null,
  );
  if (!made) return;
  const [outline] = made;
  if (made.length > 1 || !outline) {
    session.say("They do not touch, so they cannot be one outline.", true);
    return;
  }
  const others = picked.slice(1).map((p) => p.ref);
  await session.edit({
    line: `${nameOf(picked.map((p) => p.ref))} joined into ${first.ref.id}`,
    change: (d) =>
      removed(
        mapped(d, [first.ref], (i) => ({ ...i, outline })),
        others,
      ),
    picks: [first.ref],
  });
}

/** Cuts the selected objects in two along a line. */
export async function cutByLine(refs: Ref[], line: Point[]): Promise<void> {
  const session = useSession.getState();
  for (const { ref, outline } of outlined(refs)) {
    const made = await operate("cut", [outline], line);
    if (!made) return;
    const [own, ...rest] = made;
    if (!own || !rest.length) {
      session.say(`The line does not cross ${nameOf([ref])}.`, true);
      continue;
    }
    const document = useSession.getState().document;
    const item = document && itemOf(document, ref);
    if (!item) continue;
    const { id: _id, ...template } = item;
    const pieces = rest.map((o) => ({ ...template, outline: o }));
    await session.edit({
      line: `${nameOf([ref])} cut into ${made.length}`,
      change: (d) =>
        added(
          mapped(d, [ref], (i) => ({ ...i, outline: own })),
          ref.kind,
          pieces,
        ).document,
      picks: [ref],
    });
  }
}
