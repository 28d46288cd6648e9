import { Button } from "@mui/material";
import { useRef, useState } from "react";
import type { ProjectState, Scheme } from "../api/client";
import { make } from "../api/edits";
import { useEdit, useScheme } from "../api/hooks";
import { freshId } from "../app/words";

type List = "sun_pictures" | "light_pictures";
type Picture<L extends List> = NonNullable<Scheme[L]>[number];

/** Whether a picture of some revision shows what no longer is; that pictures are kept or removed changes nothing that they show. */
export function useOutdated(revision: number | undefined): boolean {
  const { scheme, state } = useScheme();
  const shown = useRef({ revision: -1, what: "" });
  if (revision === undefined || revision === state.revision) {
    if (revision !== undefined && shown.current.revision !== revision)
      shown.current = { revision, what: whatIsShown(scheme, state) };
    return false;
  }
  return shown.current.revision !== revision || shown.current.what !== whatIsShown(scheme, state);
}

function whatIsShown(scheme: Scheme, state: ProjectState): string {
  const { sun_pictures: _, light_pictures: __, ...rest } = scheme;
  return JSON.stringify([rest, state.completed.place, state.completed.library]);
}

/** Pictures that are kept with the scheme; each is worked out anew when it is shown. */
export function KeptPictures<L extends List>({ list, onShow }: { list: L; onShow: (picture: Picture<L>) => void }) {
  const { scheme } = useScheme();
  const edit = useEdit();
  return (
    <>
      {((scheme[list] ?? []) as Picture<L>[]).map((p) => (
        <div key={p.id} className="spread small" data-kept-picture={p.id}>
          <button type="button" className="plain" style={{ textAlign: "left" }} onClick={() => onShow(p)}>
            {p.name}
          </button>
          <button
            type="button"
            className="plain assumed"
            aria-label={`Remove the picture ${p.name}`}
            onClick={() => void edit(make.remove(`schemes/${scheme.id}/${list}/${p.id}`))}
          >
            remove
          </button>
        </div>
      ))}
    </>
  );
}

/** Keeps the picture that is shown under a name. */
export function KeepPicture<L extends List>({ list, picture }: { list: L; picture: Omit<Picture<L>, "id" | "name"> }) {
  const { scheme } = useScheme();
  const edit = useEdit();
  const [name, setName] = useState<string | null>(null);
  async function keep() {
    const id = freshId(
      "picture",
      (scheme[list] ?? []).map((p) => p.id),
    );
    if (await edit(make.put(`schemes/${scheme.id}/${list}`, { id, name: name?.trim(), ...picture }))) setName(null);
  }
  if (name === null)
    return (
      <Button variant="outlined" onClick={() => setName("")}>
        Keep this picture
      </Button>
    );
  return (
    <span className="row">
      <input
        className="text-box"
        aria-label="Name of the picture"
        placeholder="Name of the picture"
        value={name}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter" && name.trim()) void keep();
          if (e.key === "Escape") setName(null);
        }}
      />
      <Button variant="contained" disabled={!name.trim()} onClick={() => void keep()}>
        Keep
      </Button>
    </span>
  );
}
