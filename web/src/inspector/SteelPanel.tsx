import { floorProperty } from "../kinds/properties";
import type { FloorDocument } from "../model/floor";
import { usePicked } from "../session";
import { PropertyField } from "./PropertyField";

const FIELDS = [
  floorProperty("exposure", "Exposure", { empty: true }),
  floorProperty("crack_width_limit_mm", "Greatest crack", { empty: true }),
  floorProperty("stock_length_m", "Longest bar"),
];

/** What steel is designed by: exposure, limits of cracks, and the bars that may be chosen. */
export function SteelPanel(props: { document: FloorDocument }) {
  const { document } = props;
  const { edit } = usePicked("edit");
  return (
    <>
      <h3>Bars and cracks</h3>
      <div className="fields">
        {FIELDS.map((property) => (
          <PropertyField
            key={property.path}
            property={property}
            items={[{ id: "", ...document }]}
            document={document}
            save={(value, told) =>
              edit({
                line: `${property.name}: ${told}`,
                change: (d) => ({ ...d, [property.path]: value ?? property.fallback ?? null }),
              })
            }
          />
        ))}
        <Choices
          key={`b${document.bar_sizes_mm}`}
          name="Bars, mm"
          values={document.bar_sizes_mm ?? []}
          save={(values) =>
            edit({
              line: `Bars to choose from: ${values.join(", ")} mm`,
              change: (d) => ({ ...d, bar_sizes_mm: values }),
            })
          }
        />
        <Choices
          key={`s${document.spacings_mm}`}
          name="Spacings, mm"
          values={document.spacings_mm ?? []}
          save={(values) =>
            edit({
              line: `Spacings to choose from: ${values.join(", ")} mm`,
              change: (d) => ({ ...d, spacings_mm: values }),
            })
          }
        />
      </div>
    </>
  );
}

/** A list of numbers in one line; what is no number is left as it was. */
function Choices(props: { name: string; values: number[]; save: (values: number[]) => Promise<boolean> }) {
  const { name, values, save } = props;
  const written = values.join(", ");
  return (
    <label className="field">
      <span>{name}</span>
      <input
        defaultValue={written}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={(e) => {
          const given = e.target.value
            .split(/[\s,;]+/)
            .filter(Boolean)
            .map(Number);
          const fine = given.length > 0 && given.every((v) => Number.isFinite(v) && v > 0);
          if (!fine) e.target.value = written;
          else if (given.join(", ") !== written) void save(given.sort((a, b) => a - b));
        }}
      />
    </label>
  );
}
