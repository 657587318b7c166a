// The layers of the front end, lowest first: a folder imports from those before it and from itself, never upwards.
const LAYERS = [
  "api", "units", "model", "kinds", "display", "checks", "session", "readings", "plan", "space", "audit",
  "inspector", "review", "ledger", "route", "people", "building", "app",
];

/** @type {import("dependency-cruiser").IConfiguration} */
export default {
  forbidden: [
    ...LAYERS.map((layer, k) => ({
      name: `${layer}-imports-upwards`,
      severity: "error",
      from: { path: `^src/${layer}/` },
      to: { path: `^src/(?:${LAYERS.slice(k + 1).join("|")})/` },
    })).slice(0, -1),
    { name: "no-folder-outside-the-layers", severity: "error", from: {}, to: { path: "^src/", pathNot: `^src/(?:${LAYERS.join("|")})/|^src/main` } },
    { name: "no-circles", severity: "error", from: {}, to: { circular: true } },
  ],
  options: { tsConfig: { fileName: "tsconfig.json" }, tsPreCompilationDeps: true, doNotFollow: { path: "node_modules" } },
};
