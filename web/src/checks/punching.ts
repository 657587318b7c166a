import type { CheckFile } from "./check";

export const punching: CheckFile = {
  name: "punching",
  title: "Punching",
  step: "punching",
  word: "Zone",
  display: () => ({ quantity: "none", zones: true, of: null, kind: null }),
};
