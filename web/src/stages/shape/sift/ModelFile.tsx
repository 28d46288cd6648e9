import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { type ReactNode, useState } from "react";
import { readerOf } from "../../../api/readers";
import { useKept } from "../../../app/state";
import { both, figure, scale } from "../../../app/words";
import { Typed } from "../../../fields/Typed";
import type { Unsaid } from "./imports";

const STOREY_M = 3.5;
const LOWEST_M = 1.5;
const HIGHEST_M = 30;

/** Hands a model on to be read; what a mesh does not say is asked before: its storeys, and where it names neither, unit and upward axis. */
export function useModelFile(send: (file: File, more: Unsaid) => void): [(file: File) => void, ReactNode] {
  const [asked, setAsked] = useState<File | null>(null);
  const [unit, setUnit] = useState("m");
  const [up, setUp] = useState("z");
  const [storey, setStorey] = useState(STOREY_M);
  const units = useKept((s) => s.units);
  const metre = scale("m", units);
  const take = (file: File) => (readerOf(file)?.asks.length ? setAsked(file) : send(file, {}));
  const fits = storey >= LOWEST_M && storey <= HIGHEST_M;
  const dumb = asked !== null && readerOf(asked)?.asks.includes("unit");
  const question = asked && (
    <Dialog open onClose={() => setAsked(null)} slotProps={{ paper: { "aria-label": "About this mesh" } }}>
      <DialogTitle>What “{asked.name}” does not say</DialogTitle>
      <DialogContent>
        {dumb && (
          <>
            <div className="field">
              <label htmlFor="mesh-unit">One of its units is</label>
              <span />
              <select id="mesh-unit" className="text-box" value={unit} onChange={(e) => setUnit(e.target.value)}>
                <option value="m">a metre</option>
                <option value="cm">a centimetre</option>
                <option value="mm">a millimetre</option>
                <option value="ft">a foot</option>
                <option value="in">an inch</option>
              </select>
              <span />
            </div>
            <div className="field">
              <label htmlFor="mesh-up">The axis that looks up is</label>
              <span />
              <select id="mesh-up" className="text-box" value={up} onChange={(e) => setUp(e.target.value)}>
                <option value="z">z</option>
                <option value="y">y</option>
              </select>
              <span />
            </div>
          </>
        )}
        <Typed
          label="Cut into storeys of about"
          name="mesh-storey"
          value={Number.isFinite(storey) ? figure(storey, "m", units, 2).text : ""}
          unit={metre.unit}
          onCommit={(text) => setStorey(Number(text.replace(",", ".")) / metre.factor)}
        />
        {!fits && (
          <p className="remark fault">
            A storey is {both(LOWEST_M, "m", units, 1)} to {both(HIGHEST_M, "m", units, 0)} high.
          </p>
        )}
      </DialogContent>
      <DialogActions>
        <Button variant="outlined" onClick={() => setAsked(null)}>
          Do not read it
        </Button>
        <Button
          variant="contained"
          disabled={!fits}
          onClick={() => {
            send(asked, { ...(dumb ? { unit, up } : {}), storey_height: storey.toFixed(4) });
            setAsked(null);
          }}
        >
          Read it
        </Button>
      </DialogActions>
    </Dialog>
  );
  return [take, question];
}
