import * as Dialog from "@radix-ui/react-dialog";
import { usePicked } from "../session";

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
              <ul>
                {told?.theirs.map((d) => (
                  <li key={d}>{d}</li>
                ))}
              </ul>
            </div>
            <div>
              <h3>You changed</h3>
              <ul>
                {told?.yours.map((d) => (
                  <li key={d}>{d}</li>
                ))}
              </ul>
            </div>
          </div>
          <p className={clash ? "warning" : "quiet"}>
            {clash
              ? `You both changed ${told?.clashes.join(", ")}. With “mine”, yours stands there, and theirs everywhere else.`
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
