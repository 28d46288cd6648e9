import { useGeometry, useScheme } from "../../api/hooks";
import { useKept } from "../../app/state";
import { tone } from "../../app/tokens";
import { both, figure } from "../../app/words";
import { NumberField } from "../../fields/Field";

/** Floor area and footprint of the whole scheme, against what is aimed at. */
export function Areas() {
  const { scheme } = useScheme();
  const geometry = useGeometry(scheme.id).data;
  if (!geometry || geometry.zones.length === 0) return null;
  const floor = geometry.zones.reduce((sum, z) => sum + z.gross_floor_m2, 0);
  const path = `schemes/${scheme.id}/aims`;
  return (
    <details data-section="areas">
      <summary>
        Floor area and footprint <Short value={floor} />
      </summary>
      <Measure name="Gross floor area" value={floor} aim={scheme.aims?.gross_floor_m2} />
      <NumberField path={`${path}/gross_floor_m2`} note="Aims.gross_floor_m2" />
      <Measure name="Footprint" value={geometry.footprint_m2} aim={scheme.aims?.footprint_m2} />
      <NumberField path={`${path}/footprint_m2`} note="Aims.footprint_m2" />
    </details>
  );
}

function Short({ value }: { value: number }) {
  const units = useKept((s) => s.units);
  return <span className="quiet">{both(value, "m²", units, 0)}</span>;
}

function Measure({ name, value, aim }: { name: string; value: number; aim?: number | null }) {
  const units = useKept((s) => s.units);
  const share = aim ? value / aim : null;
  return (
    <div data-measure={name} style={{ marginTop: 6 }}>
      <div className="spread">
        <span>{name}</span>
        <span>
          {both(value, "m²", units, 0)}
          {aim && share !== null && (
            <span className="quiet">
              {" "}
              of {figure(aim, "m²", units, 0).text}, {share >= 1 ? "+" : "−"}
              {Math.abs((share - 1) * 100).toFixed(1)}%
            </span>
          )}
        </span>
      </div>
      {share !== null && (
        <div style={{ position: "relative", height: 6, background: "#EDE7DA", borderRadius: 3 }}>
          <div
            style={{
              height: 6,
              borderRadius: 3,
              width: `${Math.min(share / 1.25, 1) * 100}%`,
              background: Math.abs(share - 1) < 0.02 ? tone.tide : "#8FB5AC",
            }}
          />
          <div style={{ position: "absolute", left: "80%", top: -3, width: 1.5, height: 12, background: tone.ink }} />
        </div>
      )}
    </div>
  );
}
