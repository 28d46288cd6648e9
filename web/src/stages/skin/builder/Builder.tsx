import { Button, MenuItem, Select } from "@mui/material";
import { useState } from "react";
import { make } from "../../../api/edits";
import { type ShelfConstruction, type ShelfLayer, useEdit, useScheme, useShelf } from "../../../api/hooks";
import { useKept } from "../../../app/state";
import { tone } from "../../../app/tokens";
import { both, figure, freshId, months, round, scale } from "../../../app/words";
import { Chart } from "../../../charts/Chart";
import { keepOnEnter } from "../../../fields/enter";
import { elements } from "../elements";
import { KeepButton } from "../OwnLibrary";
import { type Account, changed, type Humidity, plain, useExamined } from "./examine";
import { Cell, Layers } from "./Layers";
import { SectionView } from "./SectionView";

const classes: [Humidity, string][] = [
  ["1", "1: stores, unheated"],
  ["2", "2: offices, shops"],
  ["3", "3: dwellings, few people"],
  ["4", "4: dwellings, many people; sports"],
  ["5", "5: laundry, brewery, pool"],
];

/** The builder: one construction, its section to scale, its layers, and what they come to. */
export function Builder({ id, onOpen, onClose }: { id: string; onOpen: (id: string) => void; onClose: () => void }) {
  const shelf = useShelf().data;
  const construction = shelf?.constructions.find((c) => c.id === id);
  if (!shelf || !construction)
    return <div className="builder quiet">This construction is no longer in the library.</div>;
  return <Bench key={id} {...{ construction, onOpen, onClose }} />;
}

function Bench({
  construction,
  onOpen,
  onClose,
}: {
  construction: ShelfConstruction;
  onOpen: (id: string) => void;
  onClose: () => void;
}) {
  const { scheme, state } = useScheme();
  const shelf = useShelf().data;
  const edit = useEdit();
  const [humidity, setHumidity] = useState<Humidity>("3");
  const examined = useExamined(construction, humidity);
  const account = examined.data;
  const own = construction.own;
  const put = (part: Record<string, unknown>) => edit(changed(construction.id, () => part));

  async function copy() {
    const taken = (shelf?.constructions ?? []).map((c) => c.id);
    const made = freshId(construction.id.replace(/-\d+$/, ""), taken);
    const item = { ...plain(construction), id: made, name: `${construction.name}, own`, source: "the project's own" };
    const skin = (scheme.skin ?? {}) as Record<string, unknown>;
    const used = elements.filter(([e]) => skin[e] === construction.id).map(([e]) => e);
    const follow = used.map((e) => make.set(`schemes/${scheme.id}/skin/${e}`, made));
    const edits = [make.put("library/constructions", item), ...follow];
    if (await edit(make.together(edits))) onOpen(made);
  }

  const users = state.completed.schemes.filter((s) => JSON.stringify(s.skin ?? {}).includes(`"${construction.id}"`));
  return (
    <div className="builder" aria-label="Construction" role="region">
      <div className="row" style={{ alignItems: "baseline", flexWrap: "wrap" }}>
        {own ? (
          <input
            className="title-input"
            aria-label="Name of the construction"
            defaultValue={construction.name}
            onBlur={(e) =>
              e.target.value.trim() && e.target.value !== construction.name && void put({ name: e.target.value.trim() })
            }
            onKeyDown={keepOnEnter}
          />
        ) : (
          <h2 style={{ flex: 1 }}>{construction.name}</h2>
        )}
        <Select
          disabled={!own}
          value={construction.element}
          inputProps={{ "aria-label": "Kind of element" }}
          onChange={(e) => void put({ element: e.target.value })}
        >
          {elements.map(([e, name]) => (
            <MenuItem key={e} value={e}>
              {name}
            </MenuItem>
          ))}
        </Select>
        {!own && (
          <Button variant="contained" onClick={() => void copy()}>
            Copy into the project to change it
          </Button>
        )}
        {own && (
          <>
            <Button variant="outlined" onClick={() => void copy()}>
              Copy
            </Button>
            <KeepButton group="constructions" id={construction.id} />
          </>
        )}
        <Button variant="outlined" onClick={onClose}>
          Back to the model
        </Button>
      </div>
      <div className="small quiet">
        {[
          construction.set_name,
          construction.source,
          users.length ? `used in ${users.map((s) => s.name).join(", ")}` : "not used yet",
        ]
          .filter(Boolean)
          .join(" · ")}
      </div>
      {construction.layers.length > 0 ? (
        <>
          <SectionView layers={construction.layers} account={account} />
          <div className="bench">
            <div>
              <Layers
                layers={construction.layers}
                account={account}
                materials={shelf?.materials ?? []}
                own={own}
                onChange={(change) =>
                  edit(changed(construction.id, (now) => ({ layers: change((now.layers ?? []) as ShelfLayer[]) })))
                }
              />
            </div>
            <Facts account={account} construction={construction} humidity={humidity} onHumidity={setHumidity} />
          </div>
        </>
      ) : (
        <div className="bench">
          <Stated construction={construction} put={put} />
          <Facts account={account} construction={construction} humidity={humidity} onHumidity={setHumidity} />
        </div>
      )}
    </div>
  );
}

/** A construction that is given by its U-value: thickness, and where its mass lies. */
function Stated({
  construction,
  put,
}: {
  construction: ShelfConstruction;
  put: (part: Record<string, unknown>) => unknown;
}) {
  const units = useKept((s) => s.units);
  const row = (key: "u_value" | "thickness_m" | "capacity_kj_m2k", label: string, unit: string, digits: number) => {
    const to = scale(unit, units);
    const value = Number(construction[key] ?? 0) * to.factor;
    return (
      <div className="field">
        <span className="name">{label}</span>
        <span />
        <Cell
          label={label}
          value={String(Number(value.toFixed(digits)))}
          onCommit={(t) => put({ [key]: Number(t.replace(",", ".")) / to.factor })}
        />
        <span className="unit">{to.unit}</span>
      </div>
    );
  };
  return (
    <div style={{ maxWidth: 420 }}>
      {row("u_value", "U-value", "W/m²K", 3)}
      {row("thickness_m", "Thickness", "m", 3)}
      <div className="field wide">
        <span className="name">Mass lies</span>
        <span />
        <Select
          value={construction.mass ?? "none"}
          disabled={!construction.own}
          inputProps={{ "aria-label": "Mass lies" }}
          onChange={(e) => put({ mass: e.target.value })}
        >
          {["none", "inside", "outside", "divided", "distributed"].map((m) => (
            <MenuItem key={m} value={m}>
              {m}
            </MenuItem>
          ))}
        </Select>
      </div>
      {construction.mass !== "none" && row("capacity_kj_m2k", "Areal heat capacity", "kJ/m²K", 0)}
    </div>
  );
}

function Fact({ name, value, note }: { name: string; value: string; note?: string }) {
  return (
    <div className="spread" title={note}>
      <span>{name}</span>
      <span>{value}</span>
    </div>
  );
}

function Facts({
  account,
  construction,
  humidity,
  onHumidity,
}: {
  account: Account | undefined;
  construction: ShelfConstruction;
  humidity: Humidity;
  onHumidity: (to: Humidity) => void;
}) {
  const units = useKept((s) => s.units);
  if (!account) return <div className="quiet">working</div>;
  const wet = account.moisture;
  const inhomogeneous = account.upper - account.lower > 1e-6;
  const held = wet ? Math.max(...wet.condensate_kg_m2) : 0;
  return (
    <div className="facts">
      <div className="spread">
        <span>U-value</span>
        <span style={{ font: "600 26px var(--serif)" }} data-u>
          {figure(account.u_value, "W/m²K", units, 3).text}{" "}
          <span className="small quiet" style={{ fontFamily: "inherit" }}>
            {figure(1, "W/m²K", units, 3).unit}
          </span>
        </span>
      </div>
      {account.questions
        .filter((q) => q.field === "u_value")
        .map((q) => (
          <div key={q.field} className="remark">
            {units === "IP" ? q.sentence_ip : q.sentence}
          </div>
        ))}
      <Fact name="Resistance with films" value={both((account.upper + account.lower) / 2, "m²K/W", units, 2)} />
      {inhomogeneous && (
        <Fact
          name="Upper and lower limit"
          value={`${figure(account.upper, "m²K/W", units, 2).text} / ${figure(account.lower, "m²K/W", units, 2).text}, ±${round(account.error * 100, 1)}%`}
          note="ISO 6946: heat straight through every section, or every layer at one temperature; the mean counts"
        />
      )}
      <Fact name="Thickness" value={both(account.thickness_m * 1000, "mm", units, 0)} />
      {construction.layers.length > 0 && <Fact name="Mass" value={both(account.mass_kg_m2, "kg/m²", units, 0)} />}
      <h3>A warm day (ISO 13786)</h3>
      <Fact
        name="Heat capacity inside"
        value={both(account.swing.inside_kj_m2k, "kJ/m²K", units, 1)}
        note="Areal, over 24 hours"
      />
      <Fact
        name="Decrement"
        value={account.swing.decrement.toFixed(2)}
        note="How much of the outer swing comes through, against steady heat"
      />
      <Fact name="Comes later by" value={`${account.swing.shift_h.toFixed(1)} h`} />
      {wet && (
        <>
          <h3>Moisture (ISO 13788)</h3>
          <Select
            fullWidth
            value={humidity}
            inputProps={{ "aria-label": "Humidity inside" }}
            onChange={(e) => onHumidity(e.target.value as Humidity)}
          >
            {classes.map(([id, name]) => (
              <MenuItem key={id} value={id}>
                {name}
              </MenuItem>
            ))}
          </Select>
          <Fact
            name="Surface"
            value={`${wet.factor.toFixed(2)}, needed ${wet.factor_needed.toFixed(2)}`}
            note={`Temperature factor against mould; ${months[wet.critical_month]} asks most`}
          />
          <div className={wet.mould ? "remark" : "small quiet"} data-mould>
            {wet.mould ? "Mould is likely at the inner surface." : "No mould at the inner surface."}
          </div>
          <div className={held > 1e-6 && !wet.dries ? "remark" : "small quiet"} data-condensate>
            {held <= 1e-6
              ? "No condensate within."
              : wet.dries
                ? `Up to ${both(held, "kg/m²", units, 3)} condense and dry again within the year.`
                : "What condenses does not dry within the year."}
          </div>
          {held > 1e-6 && (
            <Chart
              height={84}
              label="Condensate at the end of each month, g/m²"
              option={{
                grid: { left: 34, right: 4, top: 8, bottom: 18 },
                xAxis: { type: "category", data: months.map((m) => m[0]), axisTick: { show: false } },
                yAxis: { type: "value", splitNumber: 2 },
                series: [
                  { type: "bar", data: wet.condensate_kg_m2.map((v) => v * 1000), itemStyle: { color: tone.tide } },
                ],
              }}
            />
          )}
          {wet.unknown.length > 0 && (
            <div className="remark">
              No vapour resistance is given for {wet.unknown.join(", ")}; taken as open as air.
            </div>
          )}
        </>
      )}
      <h3>Making it</h3>
      <Fact
        name="Embodied carbon"
        value={
          account.carbon_kg_m2 === null
            ? account.carbon_unknown.length
              ? `unknown for ${account.carbon_unknown[0]}`
              : "unknown"
            : both(account.carbon_kg_m2, "kg/m²", units, 1)
        }
        note="CO2 equivalent of its layers"
      />
    </div>
  );
}
