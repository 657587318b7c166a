import type { Vertex } from "../model/floor";
import { disc, path } from "../model/shapes";
import type { KindFile } from "./kind";

export const probes: KindFile = {
  kind: "probes",
  singular: "Probe",
  plural: "Probes",
  prefix: "P",
  layer: 13,
  copied: true,
  table: { step: "build" },
  names: { id: "Name", "at.0": "x", "at.1": "y" },
  tools: [{ key: "probe", name: "Probe", letter: "Q", form: "point", group: "read", asks: ["the probe"] }],
  look: () => "probe",
  shape: (i) => path(disc(i.at as Vertex, 0.1)),
};
