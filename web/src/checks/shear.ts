import type { CheckFile } from "./check";

export const shear: CheckFile = {
  name: "shear",
  title: "Shear",
  step: "steel",
  word: "Shear beside",
  display: () => ({ quantity: "v", of: null, kind: null }),
};
