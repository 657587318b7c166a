import type { RefObject } from "react";
import type { FloorDocument, Labelled } from "../model/floor";
import type { Property } from "../model/property";

/** The field of the cell that is being edited: Enter goes down, Tab across, Ctrl+Enter sets the whole range. */
export function CellInput(props: {
  field: RefObject<HTMLInputElement | null>;
  property: Property;
  row: Labelled;
  document: FloorDocument;
  text: string;
  edit: (text: string) => void;
  commit: (all: boolean, by: { rows: number; columns: number } | null) => void;
  drop: () => void;
}) {
  const { field, property, row, document, text, edit, commit, drop } = props;
  const choices = `choices-${property.path}`;
  return (
    <>
      <input
        ref={field}
        value={text}
        aria-label={`${property.name} of ${row.id}`}
        list={property.type === "choice" ? choices : undefined}
        onChange={(e) => edit(e.target.value)}
        onBlur={() => commit(false, null)}
        onKeyDown={(e) => {
          e.stopPropagation();
          const back = e.shiftKey ? -1 : 1;
          const all = e.ctrlKey || e.metaKey;
          if (e.key === "Enter") commit(all, all ? null : { rows: back, columns: 0 });
          else if (e.key === "Tab") commit(false, { rows: 0, columns: back });
          else if (e.key === "Escape") drop();
          else return;
          e.preventDefault();
        }}
      />
      {property.type === "choice" && (
        <datalist id={choices}>
          {(property.choicesFor?.(document, row) ?? property.choices?.(document) ?? []).map((o) => (
            <option key={o} value={o.replaceAll("_", " ")} />
          ))}
        </datalist>
      )}
    </>
  );
}
