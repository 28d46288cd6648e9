import type { Volume } from "../../api/client";
import { ChoiceField, NumberField } from "../../fields/Field";
import { useEdges } from "./edges";

/** What covers a volume's top storey. */
export function RoofSection({ volume }: { volume: Volume }) {
  const { scheme, outer } = useEdges(volume.id);
  const path = `schemes/${scheme}/volumes/${volume.id}/roof`;
  const kind = volume.roof?.kind ?? "flat";
  return (
    <section>
      <ChoiceField
        path={`${path}/kind`}
        note="Roof.kind"
        vary
        options={[
          { id: "flat", name: "flat" },
          { id: "mono", name: "one slope" },
          { id: "gable", name: "two slopes to a ridge" },
        ]}
      />
      {kind !== "flat" && (
        <>
          <NumberField path={`${path}/pitch_deg`} note="Roof.pitch_deg" slider form vary />
          <ChoiceField
            path={`${path}/eaves`}
            note="Roof.eaves"
            options={[{ id: "", name: "the longest side" }, ...outer.map((e) => ({ id: e.id, name: e.name }))]}
          />
        </>
      )}
    </section>
  );
}
