import type { CheckFile } from "./check";

const ofTendons = (name: string, title: string): CheckFile => ({
  name,
  title,
  step: "tendons",
  word: title,
  display: () => ({ quantity: "none" }),
});

/** Checks of floors with tendons. */
export const prestress: CheckFile[] = [
  ofTendons("transfer_stress", "Transfer"),
  ofTendons("service_stress", "Service"),
  ofTendons("precompression", "Precompression"),
  ofTendons("tendon_spacing", "Spacing"),
];
