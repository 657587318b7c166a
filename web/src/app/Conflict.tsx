import * as Dialog from "@radix-ui/react-dialog";
import { useSession } from "./session";

/** Somebody else saved first: who, what, and the two ways on. */
export function Conflict() {
  const { conflict, settle } = useSession();
  return (
    <Dialog.Root open={conflict !== null} onOpenChange={(open) => !open && void settle(false)}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="dialog">
          <Dialog.Title>Somebody saved before you</Dialog.Title>
          <Dialog.Description>{conflict?.told.sentence}</Dialog.Description>
          <p>
            <b>Yours:</b> {conflict?.told.mine}
          </p>
          <ul>
            {conflict?.told.differs.map((d) => (
              <li key={d}>{d}</li>
            ))}
          </ul>
          <div className="buttons">
            <button type="button" onClick={() => void settle(false)}>
              Take theirs
            </button>
            <button type="button" className="accent" onClick={() => void settle(true)}>
              Take theirs, then make my change again
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
