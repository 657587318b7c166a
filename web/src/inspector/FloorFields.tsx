import type { FloorDocument, Labelled } from "../model/floor";
import { type Property, withValue } from "../model/property";
import { usePicked } from "../session";
import { PropertyField } from "./PropertyField";

/** Fields of the floor's own values; an emptied one takes its default. */
export function FloorFields(props: { document: FloorDocument; properties: readonly Property[] }) {
  const { document } = props;
  const { edit } = usePicked("edit");
  return props.properties.map((property) => (
    <PropertyField
      key={property.path}
      property={property}
      items={[{ id: "", ...document }]}
      document={document}
      save={(value, told) =>
        edit({
          line: `${property.name}: ${told}`,
          change: (d) =>
            withValue(
              d as unknown as Labelled,
              property.path,
              value ?? property.fallback ?? null,
            ) as unknown as FloorDocument,
        })
      }
    />
  ));
}
