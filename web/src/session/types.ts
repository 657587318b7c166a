import type { Conflict, Finding, FloorState, Problem, ProjectState, ProjectSummary, RunEvent } from "../api/client";
import type { Fields } from "../api/fields";
import type { FloorDocument, Kind, Ref } from "../model/floor";
import type { ProjectDocument } from "../model/project";
import type { Results, Row } from "../model/results";
import type { StepName } from "../model/step";
import type { Edit } from "./editQueue";

export type Selection =
  | { type: "object"; kind: Kind; id: string }
  | { type: "row"; key: string }
  | { type: "panel"; id: string }
  | { type: "place"; at: [number, number] }
  | { type: "arrangement"; name: string }
  | { type: "run"; id: number }
  | { type: "bars"; mark: string }
  | { type: "station"; strip: string; s: number; face: "bottom" | "top" }
  | null;

export type ProjectEdit = { line: string; change: (document: ProjectDocument) => ProjectDocument };
export type Answer = "theirs" | "both" | "mine";
export type Flight = { x: number; y: number; count: number; wide: number | null };

/** The open floor with its document, and how it is changed. */
export type FloorPart = {
  floor: FloorState | null;
  document: FloorDocument | null;
  findings: Finding[];
  /** What was refused, and how it is told to the reader where that is known. */
  problems: (Problem & { told?: string })[];
  conflict: { told: Conflict; document: FloorDocument; line: string } | null;
  saving: boolean;
  open: (floorId: number) => Promise<void>;
  reload: () => Promise<void>;
  edit: (edit: Edit) => Promise<boolean>;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
  settle: (answer: Answer) => Promise<void>;
};

/** The projects, and the one of the open floor. */
export type ProjectPart = {
  projects: ProjectSummary[];
  project: ProjectState | null;
  start: () => Promise<void>;
  editProject: (edit: ProjectEdit) => Promise<boolean>;
  undoProject: (back: boolean) => Promise<void>;
};

/** What is looked at. */
export type SelectionPart = {
  step: StepName;
  selection: Selection;
  /** All selected objects; the last one picked is `selection`. */
  chosen: Ref[];
  flight: Flight | null;
  setStep: (step: StepName) => void;
  select: (selection: Selection) => void;
  choose: (refs: Ref[]) => void;
  /** Go to a place of the plan; `wide`: so many metres of it fill the view. */
  flyTo: (at: readonly [number, number] | null, wide?: number | null) => void;
  openRow: (row: Row) => void;
};

/** The runs of the open floor and the results that are shown. */
export type RunPart = {
  results: Results | null;
  fields: Fields | null;
  /** Number of the revision that the shown results belong to. */
  freshRevision: number | null;
  /** The run that the shown results belong to. */
  shownRun: number | null;
  run: RunEvent | null;
  /** The verdict of a run whose other results are still to come; not `whole`: nor are the checks of what lasts. */
  early: { revision: number; verdict: Row[]; whole: boolean } | null;
  cancel: () => Promise<void>;
  /** The server is not reached. */
  away: boolean;
};

/** What is told in passing. */
export type NotePart = {
  note: { text: string; bad: boolean } | null;
  say: (text: string, bad?: boolean) => void;
};

export type Session = FloorPart & ProjectPart & SelectionPart & RunPart & NotePart;
export type Change = (part: Partial<Session> | ((now: Session) => Partial<Session>)) => void;
export type Get = () => Session;
