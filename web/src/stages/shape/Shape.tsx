import { Button, Menu, MenuItem } from "@mui/material";
import { useState } from "react";
import { useGeometry, useScheme } from "../../api/hooks";
import { ActsOn, Crumbs, ObjectList, Workbench } from "../../app/Sheet";
import { pick, useChosen, useKept, useViewed } from "../../app/state";
import { both, count } from "../../app/words";
import { NumberField } from "../../fields/Field";
import { Scene } from "../../scene/Scene";
import { useWorking } from "../../scene/storeys";
import { FaceSheet } from "../skin/FaceSheet";
import { TurnWith } from "../skin/TurnWith";
import { Areas } from "./Areas";
import { ChosenSheet, SameSection } from "./ChosenSheet";
import { GroupSection } from "./GroupSection";
import { ExportButton, ImportButton, ImportList } from "./Imports";
import { Plans, RepeatRooms } from "./Plans";
import { AloneButton, OneRoom } from "./Reshape";
import { RoomList } from "./RoomList";
import { RoomSheet } from "./RoomSheet";
import { VolumeSheet } from "./VolumeSheet";

const forms = [
  ["rectangle", "Rectangle"],
  ["l", "L"],
  ["t", "T"],
  ["u", "U"],
  ["courtyard", "Courtyard"],
  ["polygon", "Free outline"],
] as const;

/** Draw volumes, stack them, divide them into zones. */
export default function Shape() {
  const { scheme } = useScheme();
  const { selection, drawing, set } = useViewed("selection", "drawing", "set");
  const chosen = useChosen();
  const single = chosen.length <= 1;
  const units = useKept((s) => s.units);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [oneRoom, setOneRoom] = useState(false);
  const volumes = scheme.volumes ?? [];
  const geometry = useGeometry(scheme.id).data;
  const face = selection?.kind === "face" ? geometry?.faces.find((f) => f.id === selection.id) : undefined;
  const zone = selection?.kind === "zone" ? geometry?.zones.find((z) => z.id === selection.id) : undefined;
  const given = (scheme.zones ?? []).find((z) => z.id === (zone?.id ?? face?.zone));
  const volumeId = selection?.kind === "volume" ? selection.id : (face?.zone.split("/")[0] ?? zone?.volume);
  const volume = volumes.find((v) => v.id === volumeId);
  const working = useWorking();

  function draw(kind: string) {
    setMenu(null);
    set({ drawing: kind, plan: true, selection: null });
  }

  const tools = (
    <>
      <Button variant="outlined" aria-pressed={!drawing} onClick={() => set({ drawing: null })}>
        Select
      </Button>
      <Button
        variant={drawing && forms.some(([k]) => k === drawing) ? "contained" : "outlined"}
        onClick={(e) => setMenu(e.currentTarget)}
      >
        {drawing && forms.some(([k]) => k === drawing)
          ? `Drawing: ${forms.find(([k]) => k === drawing)?.[1]}`
          : "Add volume"}
      </Button>
      <span className="switch" role="group" aria-label="Trace">
        {(["room", "window", "door"] as const).map((kind) => (
          <button
            key={kind}
            type="button"
            aria-pressed={drawing === kind}
            onClick={() => (drawing === kind ? set({ drawing: null }) : draw(kind))}
          >
            {kind}
          </button>
        ))}
      </span>
      <Menu anchorEl={menu} open={Boolean(menu)} onClose={() => setMenu(null)}>
        {forms.map(([kind, name]) => (
          <MenuItem key={kind} onClick={() => draw(kind)}>
            {name}
          </MenuItem>
        ))}
        <MenuItem
          onClick={() => {
            setMenu(null);
            setOneRoom(true);
          }}
        >
          One room, typed
        </MenuItem>
      </Menu>
      <OneRoom open={oneRoom} onClose={() => setOneRoom(false)} />
      <ImportButton />
      <ExportButton />
    </>
  );
  const empty = (
    <div
      className="overlay"
      style={{ left: "50%", top: "40%", transform: "translate(-50%,-50%)", padding: 20, textAlign: "center" }}
    >
      <h2>Nothing is drawn yet</h2>
      <p className="quiet">Draw the first volume in plan, type its lengths, or import one.</p>
      <div className="row" style={{ justifyContent: "center", flexWrap: "wrap" }}>
        {forms.map(([kind, name]) => (
          <Button key={kind} variant="outlined" onClick={() => draw(kind)}>
            {name}
          </Button>
        ))}
        <ImportButton />
      </div>
    </div>
  );
  return (
    <Workbench canvas={<Scene tools={tools} empty={empty} adds />}>
      <Crumbs />
      {chosen.length > 1 && <ChosenSheet />}
      {single && face && <FaceSheet face={face} />}
      {single && zone && (
        <>
          <ActsOn what={zone.name} />
          <ZoneFigures id={zone.id} />
          {given && <RoomSheet room={given} key={given.id} />}
          <section>
            <AloneButton zone={zone.id} name={zone.name} />
          </section>
        </>
      )}
      {single && volume && !zone && !face && <VolumeSheet volume={volume} key={volume.id} />}
      <SameSection />
      {working.picked && (
        <>
          <ActsOn
            what={`Storey ${working.storeyAt(working.level).number}`}
            more={`at ${both(working.level, "m", units, 2)}`}
          />
          <RepeatRooms />
        </>
      )}
      <ActsOn what="Whole scheme" more={scheme.name} />
      <Areas />
      {!selection && <VolumeList />}
      <section>
        <NumberField
          path={`schemes/${scheme.id}/turn_deg`}
          note="Scheme.turn_deg"
          slider
          form
          vary
          label="Whole scheme turned"
        />
        <TurnWith />
      </section>
      <GroupSection />
      <Plans />
      {!working.picked && <RepeatRooms />}
      <ImportList />
      <RoomList />
      <ObjectList />
    </Workbench>
  );
}

/** The volumes that there are; a press selects one. */
function VolumeList() {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const geometry = useGeometry(scheme.id).data;
  const volumes = scheme.volumes ?? [];
  if (volumes.length === 0) return null;
  const areaOf = (id: string) =>
    (geometry?.zones ?? []).filter((z) => z.volume === id).reduce((sum, z) => sum + z.gross_floor_m2, 0);
  return (
    <section data-section="volumes">
      <h3>Volumes</h3>
      {volumes.map((v) => (
        <button
          key={v.id}
          type="button"
          className="plain spread listed"
          onClick={() => pick({ kind: "volume", id: v.id })}
        >
          <span>{v.name || v.id}</span>
          <span className="quiet small">
            {count(v.storeys.length, "storey")}
            {geometry && `, ${both(areaOf(v.id), "m²", units, 0)}`}
          </span>
        </button>
      ))}
    </section>
  );
}

export function ZoneFigures({ id }: { id: string }) {
  const { scheme } = useScheme();
  const units = useKept((s) => s.units);
  const zone = useGeometry(scheme.id).data?.zones.find((z) => z.id === id);
  if (!zone) return null;
  return (
    <section>
      <div className="spread">
        <span>Gross floor area</span>
        <span>{both(zone.gross_floor_m2, "m²", units, 1)}</span>
      </div>
      <div className="spread">
        <span>Level</span>
        <span>{both(zone.level, "m", units, 2)}</span>
      </div>
      <div className="spread">
        <span>Height, floor to floor</span>
        <span>{both(zone.height, "m", units, 2)}</span>
      </div>
    </section>
  );
}
