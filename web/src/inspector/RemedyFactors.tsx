import { floorProperty } from "../kinds/properties";
import type { FloorDocument, Labelled } from "../model/floor";
import { valueAt, withValue } from "../model/property";
import { usePicked } from "../session";
import { shown } from "../units/format";
import { type System, useUnits } from "../units/quantities";
import { PropertyField } from "./PropertyField";

const LB = 0.45359237;
const YD3 = 0.764554857984;
const FT2 = 0.09290304;

type Factor = {
  path: string;
  fallback: number;
  names: Record<System, string> /** US value over the stored one. */;
  us: number;
};

/** What is stored by kg, m² and m³, as either system tells it. */
const FACTORS: Factor[] = [
  {
    path: "carbon.concrete_kg_m3",
    fallback: 300,
    names: { SI: "Concrete, kg CO₂e per m³", US: "Concrete, lb CO₂e per yd³" },
    us: YD3 / LB,
  },
  {
    path: "carbon.steel_kg_per_kg",
    fallback: 1,
    names: { SI: "Steel, kg CO₂e per kg", US: "Steel, lb CO₂e per lb" },
    us: 1,
  },
  {
    path: "costs.concrete_per_m3",
    fallback: 150,
    names: { SI: "Concrete, price per m³", US: "Concrete, price per yd³" },
    us: YD3,
  },
  { path: "costs.steel_per_kg", fallback: 2, names: { SI: "Steel, price per kg", US: "Steel, price per lb" }, us: LB },
  {
    path: "costs.formwork_per_m2",
    fallback: 50,
    names: { SI: "Formwork, price per m²", US: "Formwork, price per ft²" },
    us: FT2,
  },
];
const CURRENCY = floorProperty("costs.currency", "Currency");

/** By what remedies are compared: carbon and cost of what they add. */
export function RemedyFactors(props: { document: FloorDocument }) {
  const { document } = props;
  const { edit } = usePicked("edit");
  const system = useUnits((u) => u.system);
  const item = { id: "", ...document } as unknown as Labelled;
  const save = (path: string, name: string, value: unknown, told: string) =>
    edit({
      line: `${name}: ${told}`,
      change: (d) => withValue(d as unknown as Labelled, path, value) as unknown as FloorDocument,
    });
  return (
    <>
      <h3>What remedies cost</h3>
      <p className="quiet">
        Assumptions to compare remedies by: common ready-mixed concrete, bars of electric furnaces, cradle to gate;
        prices placed and finished. Replace them by those of your suppliers.
      </p>
      <div className="fields">
        {FACTORS.map((f) => {
          const factor = system === "US" ? f.us : 1;
          const now = ((valueAt(item, f.path) as number | undefined) ?? f.fallback) * factor;
          const text = shown(now, "", now >= 20 ? 0 : 2).replace("−", "-");
          return (
            <div className="number-field" key={f.path}>
              <label htmlFor={f.path}>{f.names[system]}</label>
              <input
                id={f.path}
                key={text}
                defaultValue={text}
                onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
                onBlur={(e) => {
                  const given = e.target.value.trim();
                  const value = Number(given.replaceAll(",", ""));
                  if (given === text) return;
                  if (!given || !Number.isFinite(value) || value < 0) e.target.value = text;
                  else void save(f.path, f.names[system], Number((value / factor).toPrecision(9)), given);
                }}
              />
            </div>
          );
        })}
        <PropertyField
          property={CURRENCY}
          items={[item]}
          document={document}
          save={(value, told) => save("costs.currency", "Currency", value ?? "EUR", told)}
        />
      </div>
    </>
  );
}
