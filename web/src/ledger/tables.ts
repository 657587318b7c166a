import { barTable, beamTable, shearTable } from "./barTables";
import { sagTable, stageTable, steelTable, stripTable, uncoveredTable, zoneTable } from "./checkTables";
import { railTable } from "./railTable";
import { arrangementTable, panelTable, probeTable, reactionTable, runTable, sliceTable, sumsTable } from "./readTables";
import type { Sources, TableView } from "./table";
import { stressingTable, stressTable } from "./tendonTables";

/** The tables of results, by the key of the ledger's tab. */
export const TABLES: Record<string, (sources: Sources) => TableView> = {
  sums: sumsTable,
  arrangements: arrangementTable,
  derived: panelTable,
  reactions: reactionTable,
  slices: sliceTable,
  read_probes: probeTable,
  runs: runTable,
  strips: stripTable,
  steel: steelTable,
  bars: barTable,
  shear: shearTable,
  beam_spans: beamTable,
  steel_uncovered: (s) => uncoveredTable(s, ["flexure", "crack_width", "beams"]),
  zones: zoneTable,
  rails: railTable,
  punching_uncovered: (s) => uncoveredTable(s, ["punching"]),
  stressing: stressingTable,
  stresses: stressTable,
  sags: sagTable,
  life_stages: stageTable,
};
