import type { Vertex } from "../model/floor";
import { disc, path } from "../model/shapes";
import type { KindFile } from "./kind";

export const strip_stations: KindFile = {
  kind: "strip_stations",
  singular: "Strip station",
  plural: "Strip stations",
  prefix: "K",
  layer: 13,
  copied: true,
  table: { step: "strips", name: "Stations added" },
  names: { id: "Name", "at.0": "x", "at.1": "y" },
  tools: [
    {
      key: "strip_station",
      name: "Strip station",
      letter: ".",
      form: "point",
      group: "arrange",
      asks: ["the station"],
    },
  ],
  look: () => "probe",
  shape: (i) => path(disc(i.at as Vertex, 0.08)),
};
