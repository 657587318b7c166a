import { type KindFile, labelsOf } from "./kind";

export const partitions: KindFile = {
  kind: "partitions",
  singular: "Partition",
  plural: "Partitions",
  prefix: "Partition ",
  table: { step: "load" },
  shared: true,
  names: { id: "Name", build_up: "Build-up", height_m: "Height" },
  more: { build_up: { type: "choice", choices: (d) => labelsOf(d.build_ups) } },
};
