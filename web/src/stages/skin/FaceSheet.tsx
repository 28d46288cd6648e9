import { Button, MenuItem, Select } from "@mui/material";
import { useEffect, useState } from "react";
import type { Face } from "../../api/client";
import { useEdit, useGeometry, useScheme, useShelf } from "../../api/hooks";
import { asSchemeEdit, type Different, differEdit, differing } from "../../app/overrides";
import { ActsOn } from "../../app/Sheet";
import { useKept } from "../../app/state";
import { both } from "../../app/words";
import { keepOnEnter } from "../../fields/enter";
import { NumberField } from "../../fields/Field";
import { fitsElement } from "./elements";
import { FaceGlass } from "./FaceGlass";
import { HowDeep } from "./HowDeep";

const boundaries = [
  { id: "", name: "as found" },
  { id: "outdoors", name: "outdoors" },
  { id: "adiabatic", name: "adiabatic, a party wall" },
  { id: "ground", name: "ground" },
  { id: "fixed", name: "a stated temperature" },
];

/** What a face is called: "South wall", "Roof", "Floor". */
function nameOfFace(face: Face): string {
  const kind = face.kind === "ceiling" ? (face.boundary === "outdoors" ? "roof" : "ceiling") : face.kind;
  const name = [face.orientation, kind].filter(Boolean).join(" ");
  return name[0].toUpperCase() + name.slice(1);
}

/** One face: what it meets, and what it does differently from the scheme. */
export function FaceSheet({ face }: { face: Face }) {
  const { scheme, given } = useScheme();
  const edit = useEdit();
  const units = useKept((s) => s.units);
  const shelf = useShelf().data?.constructions ?? [];
  const zone = useGeometry(scheme.id).data?.zones.find((z) => z.id === face.zone);
  const fitting = shelf.filter((c) => fitsElement(c.element, face.element));
  const found = differing(given, scheme, face);
  const own = found?.own;
  const ratio = face.window_area / face.area;
  const [text, setText] = useState("");
  useEffect(() => setText((ratio * 100).toFixed(0)), [ratio]);

  const nameOf = (id: string) => shelf.find((c) => c.id === id)?.name ?? id;

  const put = (part: Different): Promise<boolean> => edit(differEdit(scheme, [face], part));
  const asScheme = () => void edit(asSchemeEdit(scheme, [face]));

  return (
    <>
      <ActsOn what={nameOfFace(face)} more={zone?.name} />
      <section>
        <div className="spread">
          <span>Boundary</span>
          <span>
            {face.boundary === "zone"
              ? "another zone"
              : face.boundary === "fixed"
                ? "a stated temperature"
                : face.boundary}
          </span>
        </div>
        <div className="spread">
          <span>External area</span>
          <span>{both(face.area, "m²", units, 1)}</span>
        </div>
        {face.kind === "wall" && (
          <div className="spread">
            <span>True azimuth</span>
            <span>{face.azimuth_deg.toFixed(0)}°</span>
          </div>
        )}
        {face.edge && !face.side && face.kind === "wall" && face.boundary === "outdoors" && (
          <div className="field">
            <label htmlFor="face-ratio">Glazing ratio</label>
            <span className="tags">{own?.glazing_ratio != null && <span className="assumed">own value</span>}</span>
            <input
              id="face-ratio"
              value={text}
              onChange={(e) => setText(e.target.value)}
              onBlur={() => {
                const value = Number(text.replace(",", ".")) / 100;
                if (Number.isFinite(value) && Math.abs(value - ratio) > 0.002) void put({ glazing_ratio: value });
              }}
              onKeyDown={keepOnEnter}
            />
            <span className="unit">%</span>
          </div>
        )}
        {found && face.boundary !== "zone" && (
          <>
            <div className="field wide">
              <span className="name">Beyond it</span>
              <span className="tags">{own?.boundary && <span className="assumed">by hand</span>}</span>
              <Select
                value={own?.boundary ?? ""}
                fullWidth
                displayEmpty
                inputProps={{ "aria-label": "Beyond it" }}
                onChange={(e) => void put({ boundary: e.target.value || null })}
              >
                {boundaries.map((b) => (
                  <MenuItem key={b.id} value={b.id}>
                    {b.name}
                  </MenuItem>
                ))}
              </Select>
            </div>
            {own?.boundary === "fixed" && (
              <NumberField path={`${found.path}/boundary_c`} note="FaceOverride.boundary_c" />
            )}
            <div className="field wide">
              <span className="name">Construction</span>
              <span />
              <Select
                value={own?.construction ?? ""}
                fullWidth
                displayEmpty
                inputProps={{ "aria-label": "Construction" }}
                onChange={(e) => void put({ construction: e.target.value || null })}
                renderValue={(v) => nameOf(v || face.construction)}
              >
                <MenuItem value="">as the scheme</MenuItem>
                {fitting.map((c) => (
                  <MenuItem key={c.id} value={c.id}>
                    {c.name}
                  </MenuItem>
                ))}
              </Select>
            </div>
            <div className="quiet small" style={{ textAlign: "right" }} data-clad-by>
              {face.origin === "assumed" ? "assumed: " : ""}
              {face.clad_by}
            </div>
            {face.side === "" && face.kind === "wall" && face.boundary === "outdoors" && (
              <>
                <FaceGlass face={face} own={own ?? null} put={put} />
                {face.window_area > 0 && <HowDeep face={face} put={put} />}
              </>
            )}
            {own && Object.keys(own).some((k) => !["id", "face", "side"].includes(k)) && (
              <Button variant="outlined" onClick={asScheme}>
                As the scheme
              </Button>
            )}
          </>
        )}
      </section>
    </>
  );
}
