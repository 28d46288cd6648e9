import { Button } from "@mui/material";
import type { Scheme } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useScheme, useShelf } from "../../api/hooks";
import { tell, useKept, useView } from "../../app/state";
import { both, figure } from "../../app/words";
import { ChoiceField, NumberField, TextField, YesNoField } from "../../fields/Field";
import { CornerTable } from "./CornerTable";

type Room = NonNullable<Scheme["zones"]>[number];

/** A room that was traced, read from a model or given by its faces. */
export function RoomSheet({ room }: { room: Room }) {
  const { scheme } = useScheme();
  const edit = useEdit();
  const units = useKept((s) => s.units);
  const set = useView((s) => s.set);
  const profiles = useShelf().data?.profiles ?? [];
  const path = `schemes/${scheme.id}/zones/${room.id}`;
  const openings = (room.faces ?? []).flatMap((f) => (f.windows ?? []).map((w) => ({ face: f, window: w })));
  return (
    <>
      <section>
        <TextField path={`${path}/number`} label="Number" />
        <TextField path={`${path}/name`} label="Name" />
        <TextField path={`${path}/storey`} label="Storey" />
        <ChoiceField
          path={`${path}/profile`}
          note="GivenZone.profile"
          empty="as the scheme"
          options={profiles.map((p) => ({ id: p.id, name: p.name }))}
        />
        {room.use && (
          <div className="spread small">
            <span className="quiet">Use in the file</span>
            <span>{room.use}</span>
          </div>
        )}
        {room.outline && (
          <>
            <NumberField path={`${path}/outline/z`} note="RoomOutline.z" />
            <NumberField path={`${path}/outline/height`} note="RoomOutline.height" />
            <CornerTable path={`${path}/outline/points`} points={room.outline.points} what="room" />
          </>
        )}
        <YesNoField path={`${path}/by_ratio`} note="GivenZone.by_ratio" />
      </section>
      {openings.length > 0 && (
        <section>
          <h3>Windows and doors</h3>
          {openings.map(({ face, window }, i) => (
            <details key={`${face.id}${window.id ?? i}`}>
              <summary>
                {window.kind === "door" ? "Door" : "Window"} {figure(window.width, "m", units, 2).text} ×{" "}
                {both(window.height, "m", units, 2)}
                <span className="quiet small">side {face.side ?? face.id}</span>
              </summary>
              {window.id &&
                (["x", "z", "width", "height"] as const).map((k) => (
                  <NumberField
                    key={k}
                    path={`${path}/faces/${face.id}/windows/${window.id}/${k}`}
                    note={`WindowRect.${k}`}
                    form
                  />
                ))}
              {window.id && (
                <Button
                  variant="outlined"
                  onClick={() => void edit(make.remove(`${path}/faces/${face.id}/windows/${window.id}`))}
                >
                  Remove
                </Button>
              )}
            </details>
          ))}
        </section>
      )}
      <section>
        <Button
          variant="outlined"
          onClick={() => {
            set({ selection: null });
            void edit(make.remove(path)).then((ok) => ok && tell("Room removed. Undo brings it back."));
          }}
        >
          Remove the room
        </Button>
      </section>
    </>
  );
}
