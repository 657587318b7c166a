import { Command } from "cmdk";
import { checkOf } from "../checks";
import { DISPLAY_OF, useDisplay } from "../display/display";
import { useRoom } from "../display/room";
import { ON_PLAN, singular } from "../kinds";
import { itemsOf, type Kind } from "../model/floor";
import { STEPS } from "../model/step";
import { useGesture } from "../plan/tools/gesture";
import { TOOLS } from "../plan/tools/tools";
import { usePicked, useSession } from "../session";
import { useDialogs } from "../session/dialogs";
import { usePlace } from "../session/place";

const FOUND: Kind[] = [...ON_PLAN, "combinations"];

/** Search for any object and any command. */
export function Palette(props: { open: boolean; close: () => void; say: (text: string) => void }) {
  const { document, projects, results, open, undo, redo, select, setStep, flyTo, openRow } = usePicked(
    "document",
    "projects",
    "results",
    "open",
    "undo",
    "redo",
    "select",
    "setStep",
    "flyTo",
    "openRow",
  );
  const show = useDisplay((d) => d.show);
  const openDialog = useDialogs((d) => d.open);
  const begin = (key: string) => {
    const group = TOOLS.find((t) => t.key === key)?.group;
    const here = useSession.getState().step;
    const wanted =
      group === "load"
        ? "load"
        : group === "arrange" || group === "tendons"
          ? group
          : group === "review"
            ? "review"
            : group === "read"
              ? here
              : ["setout", "build"].includes(here)
                ? here
                : "build";
    if (wanted !== here) {
      setStep(wanted);
      show(DISPLAY_OF[wanted]);
    }
    useGesture.getState().begin(key);
  };
  const does = (work: () => void) => () => {
    props.close();
    work();
  };
  /** Something of the open floor, which comes back to the screen. */
  const doesHere = (work: () => void) =>
    does(() => {
      usePlace.getState().go(null);
      work();
    });
  return (
    <Command.Dialog
      open={props.open}
      onOpenChange={(o) => !o && props.close()}
      label="Find or do"
      className="palette"
      overlayClassName="veil"
    >
      <Command.Input placeholder="A column, a load, a step, a command" />
      <Command.List>
        <Command.Empty>Nothing is called that.</Command.Empty>
        <Command.Group heading="Do">
          <Command.Item onSelect={does(() => void undo())}>
            Undo <kbd>Ctrl Z</kbd>
          </Command.Item>
          <Command.Item onSelect={does(() => void redo())}>
            Redo <kbd>Ctrl Shift Z</kbd>
          </Command.Item>
          <Command.Item onSelect={does(() => usePlace.getState().go("floors"))}>
            The building: all floors <kbd>Ctrl B</kbd>
          </Command.Item>
          <Command.Item onSelect={does(() => usePlace.getState().go("verdicts"))}>
            Verdicts of all floors in one table
          </Command.Item>
          <Command.Item onSelect={does(() => usePlace.getState().go("studies"))}>
            Studies: variants of floors by their numbers
          </Command.Item>
          <Command.Item onSelect={does(() => openDialog("projects"))}>Projects and floors</Command.Item>
          <Command.Item onSelect={does(() => openDialog("project"))}>New project</Command.Item>
          <Command.Item onSelect={does(() => openDialog("floor"))}>New floor: empty, copy or twin</Command.Item>
          <Command.Item onSelect={does(() => openDialog("copy"))}>Copy objects to other floors</Command.Item>
          <Command.Item onSelect={does(() => openDialog("drawing"))}>Drawing beneath the floor (DXF)</Command.Item>
          <Command.Item onSelect={does(() => openDialog("space"))}>See the floor in 3D</Command.Item>
          <Command.Item onSelect={does(() => openDialog("moving"))}>Animate the deflected floor</Command.Item>
          <Command.Item onSelect={does(() => openDialog("lateral"))}>
            Forces of a frame for all floors, out of a table
          </Command.Item>
          <Command.Item onSelect={does(() => openDialog("report"))}>Calculation report: web page or PDF</Command.Item>
          <Command.Item onSelect={does(() => openDialog("history"))}>What happened to this floor</Command.Item>
          <Command.Item onSelect={does(() => openDialog("people"))}>People of this project: invite, roles</Command.Item>
          <Command.Item onSelect={does(() => openDialog("you"))}>You: sign out, password, tokens</Command.Item>
          <Command.Item onSelect={does(() => openDialog("keys"))}>
            Keys <kbd>?</kbd>
          </Command.Item>
          <Command.Item onSelect={does(() => useRoom.getState().clear())}>
            All room for the plan <kbd>\</kbd>
          </Command.Item>
          {TOOLS.map((t) => (
            <Command.Item key={t.key} value={`${t.group} ${t.name}`} onSelect={doesHere(() => begin(t.key))}>
              {["draw", "load", "read", "arrange", "tendons"].includes(t.group) ? "Draw: " : ""}
              {t.name} <kbd>{t.letter}</kbd>
            </Command.Item>
          ))}
          {(results?.verdict ?? []).map((r) => (
            <Command.Item key={r.check} onSelect={doesHere(() => openRow(r))}>
              Fly to the worst place: {checkOf(r.check).title}
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading="Go to">
          {STEPS.map((s) => (
            <Command.Item
              key={s.key}
              value={`step ${s.name}`}
              onSelect={doesHere(() => {
                setStep(s.key);
                show(DISPLAY_OF[s.key]);
              })}
            >
              {s.name}
            </Command.Item>
          ))}
          {projects.flatMap((p) =>
            p.floors.map((f) => (
              <Command.Item key={f.id} value={`floor ${f.name}`} onSelect={doesHere(() => void open(f.id))}>
                {f.name}
              </Command.Item>
            )),
          )}
        </Command.Group>
        {document &&
          FOUND.map((kind) => (
            <Command.Group key={kind} heading={singular(kind)}>
              {itemsOf(document, kind).map((item) => (
                <Command.Item
                  key={item.id}
                  value={`${singular(kind)} ${item.id}`}
                  onSelect={doesHere(() => {
                    select({ type: "object", kind, id: item.id });
                    if (Array.isArray(item.at)) flyTo(item.at as [number, number]);
                  })}
                >
                  {singular(kind)} {item.id}
                </Command.Item>
              ))}
            </Command.Group>
          ))}
      </Command.List>
    </Command.Dialog>
  );
}
