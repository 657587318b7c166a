// Writes the table of the floor file's fields out of the OpenAPI schema: for every list its values with type, quantity,
// default and choices. Inspector and ledger are made from it, so that no field can be missing there.
//   node fields.mjs OPENAPI.json > fields.generated.json
import { readFileSync } from "node:fs";

const { schemas } = JSON.parse(readFileSync(process.argv[2], "utf8")).components;
const named = (ref) => schemas[ref.split("/").pop()];
const followed = (s) => (s.$ref ? { ...named(s.$ref), ...s } : s.allOf?.length === 1 ? { ...followed(s.allOf[0]), ...s } : s);

/** The branches of a schema but for null, and whether it may be null. */
function branches(schema) {
  const s = followed(schema);
  const all = (s.anyOf ?? s.oneOf ?? [s]).map(followed).flatMap((b) => (b.oneOf ? b.oneOf.map(followed) : [b]));
  return { nullable: all.some((b) => b.type === "null"), some: all.filter((b) => b.type !== "null") };
}

// Two numbers or three are a point; a list that may be of any length begins with at least one, and is a list.
const isPoint = (s) => s.type === "array" && s.minItems !== 1 && ["number"].includes(followed(s.items ?? {}).type);
const isPoints = (s) => s.type === "array" && isPoint(followed(s.items ?? {}));

function* fieldsOf(object, prefix, condition, required) {
  const must = new Set(object.required ?? []);
  for (const [key, value] of Object.entries(object.properties ?? {})) {
    const path = prefix + key;
    const { nullable, some } = branches(value);
    const common = {
      path,
      ...(condition ? { when: { ...condition } } : {}),
      ...(nullable ? { nullable: true } : {}),
      ...(must.has(key) && required ? { required: true } : {}),
      ...("default" in value && value.default !== null ? { default: value.default } : {}),
      ...(value.description ? { told: value.description.replace(/\s+/g, " ") } : {}),
      ...(value["x-quantity"] ? { quantity: value["x-quantity"] } : {}),
    };
    const objects = some.filter((b) => b.properties);
    if (objects.length) {
      // Parts of an object that may be absent are there only with it; branches are told apart by their kind.
      const tagged = objects.length > 1 || objects[0].properties.kind?.const;
      if (tagged) yield { ...common, path: `${path}.kind`, type: "choice", choices: objects.map((o) => o.properties.kind.const) };
      for (const o of objects)
        yield* fieldsOf(
          { ...o, properties: Object.fromEntries(Object.entries(o.properties).filter(([k]) => !(tagged && k === "kind"))) },
          `${path}.`,
          tagged ? { path: `${path}.kind`, is: [o.properties.kind.const] } : nullable ? { path, is: "there" } : condition,
          required && !nullable,
        );
      continue;
    }
    const words = some.flatMap((b) => b.enum ?? (b.const !== undefined ? [b.const] : []));
    const kinds = new Set(some.map((b) => b.type));
    if (words.length && kinds.has("number")) yield { ...common, type: "mixed", choices: words };
    else if (words.length) yield { ...common, type: "choice", choices: words };
    else if (kinds.has("boolean")) yield { ...common, type: "check" };
    else if (kinds.has("integer")) yield { ...common, type: "whole" };
    else if (kinds.has("number")) yield { ...common, type: "number" };
    else if (some.some(isPoints)) yield { ...common, type: "points" };
    else if (some.some(isPoint)) {
      const count = some.find(isPoint).maxItems ?? 2;
      for (let i = 0; i < count; i++) yield { ...common, path: `${path}.${i}`, type: "number" };
    } else if (some.some((b) => b.type === "array")) yield { ...common, type: "list" };
    else if (some.some((b) => b.type === "object")) yield { ...common, type: "map" };
    else yield { ...common, type: "text" };
  }
}

/** Fields of a list of objects, one entry a path; those of some kinds only say of which. */
function listFields(schema) {
  const { some } = branches(schema);
  const out = new Map();
  for (const o of some)
    for (const f of fieldsOf(o, "", null, true)) {
      const kind = some.length > 1 ? o.properties.kind.const : null;
      if (f.path === "kind" && kind) {
        const all = some.map((b) => b.properties.kind.const);
        out.set("kind", { ...f, choices: all });
        continue;
      }
      const known = out.get(f.path);
      if (known && !kind && f.when?.is && known.when?.is) known.when.is = [...new Set([known.when.is, f.when.is].flat())];
      else if (known && kind && !known.kinds.includes(kind)) known.kinds.push(kind);
      else if (known && f.when && known.when) known.when.is = [...new Set([known.when.is, f.when.is].flat())];
      else out.set(f.path, kind ? { ...f, kinds: [kind] } : f);
    }
  return [...out.values()].map((f) => {
    if (f.kinds && f.kinds.length === some.length) delete f.kinds;
    return f;
  });
}

const lists = {};
const own = { ...schemas.Floor, properties: {} };
for (const [key, value] of Object.entries(schemas.Floor.properties)) {
  const s = followed(value);
  // Lists of objects are kinds; lists of numbers are values of the floor.
  if (s.type === "array" && branches(s.items).some.some((b) => b.properties?.id)) lists[key] = listFields(s.items);
  // What is fixed for zones is edited where the zones are.
  else if (!["format", "version", "zone_settings"].includes(key)) own.properties[key] = value;
}
console.log(JSON.stringify({ floor: [...fieldsOf(own, "", null, true)], lists, quantities: schemas.TraceValue.properties.quantity.enum }, null, 1));
