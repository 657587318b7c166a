import type { CheckFile } from "./check";

export const beams: CheckFile = {
  name: "beams",
  title: "Beams",
  step: "steel",
  word: "Beam",
  display: () => ({ quantity: "none", of: null, kind: null }),
};
