import { ribbonReach } from "../model/zones";
import type { CheckFile } from "./check";

export const punching: CheckFile = {
  name: "punching",
  title: "Punching",
  step: "punching",
  word: "Zone",
  display: () => ({ quantity: "none", zones: true, of: null, kind: null }),
  // What is drawn of a zone fills the plan.
  wide: (row, results) => {
    const zone = results?.zones.find((z) => z.row === row.id.key);
    return zone ? 2.6 * ribbonReach(zone) : null;
  },
};
