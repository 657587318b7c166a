import * as Dialog from "@radix-ui/react-dialog";
import type { components } from "../api/generated";
import { differenceText, thingOf } from "../kinds/differences";
import type { FloorDocument } from "../model/floor";
import { usePicked } from "../session";
import { useUnits } from "../units/quantities";

/** Differences that a side of the dialog lists. */
const LISTED = 12;

/** Somebody else saved first: who changed what, and what is to stand. */
export function Conflict() {
  const { conflict, settle } = usePicked("conflict", "settle");
  const told = conflict?.told;
  const clash = (told?.clashes.length ?? 0) > 0;
  return (
    <Dialog.Root open={conflict !== null} onOpenChange={(open) => !open && void settle("theirs")}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="dialog conflict">
          <Dialog.Title>{told?.author} saved before you</Dialog.Title>
          <Dialog.Description>{told?.sentence}</Dialog.Description>
          <div className="two-columns">
            <div>
              <h3>{told?.author} changed</h3>
              {told && conflict && <Changed of={told.theirs} document={conflict.document} />}
            </div>
            <div>
              <h3>You changed</h3>
              {told && conflict && <Changed of={told.yours} document={conflict.document} />}
            </div>
          </div>
          <p className={clash ? "warning" : "quiet"}>
            {clash
              ? `You both changed ${told?.clashes.map((c) => thingOf(c.list, c.id)).join(", ")}. With “mine”, yours stands there, and theirs everywhere else.`
              : "The changes do not touch: both can be kept."}
          </p>
          <div className="buttons">
            <button type="button" onClick={() => void settle("theirs")}>
              Take theirs
            </button>
            <button type="button" onClick={() => void settle("mine")}>
              Take mine
            </button>
            <button type="button" className="accent" disabled={clash} onClick={() => void settle("both")}>
              Keep both
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Changed(props: { of: components["schemas"]["Differences"]; document: FloorDocument }) {
  const { of, document } = props;
  const system = useUnits((u) => u.system);
  // A corner that moved both ways is one line.
  const told = [...new Set(of.first.map((d) => differenceText(d, document, system)))];
  const lines = told.slice(0, LISTED);
  const more = of.count - of.first.length + told.length - lines.length;
  return (
    <ul>
      {lines.map((line) => (
        <li key={line}>{line}</li>
      ))}
      {more > 0 && <li>and {more} more</li>}
    </ul>
  );
}
