import { type ReactNode, useEffect, useRef, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import { useScheme } from "../api/hooks";
import { namesOf, readerOf } from "../api/readers";
import { useLayUnder } from "../scene/plan/LayUnder";
import { usePlaceFiles } from "../stages/place/files";
import { useSendModel } from "../stages/shape/sift/imports";
import { useModelFile } from "../stages/shape/sift/ModelFile";
import { tell } from "./state";

/** Takes a file that is dropped anywhere on the page, which the browser would leave for it; shows while one hangs over it. */
export function useDropped(onFile: (file: File) => void): ReactNode {
  const [over, setOver] = useState(false);
  const latest = useRef(onFile);
  latest.current = onFile;
  useEffect(() => {
    const holdsFiles = (e: DragEvent) => e.dataTransfer?.types.includes("Files");
    function hang(e: DragEvent) {
      if (!holdsFiles(e)) return;
      e.preventDefault();
      setOver(true);
    }
    function leave(e: DragEvent) {
      if (e.relatedTarget === null) setOver(false);
    }
    function drop(e: DragEvent) {
      setOver(false);
      if (!holdsFiles(e)) return;
      e.preventDefault();
      const files = e.dataTransfer?.files ?? [];
      if (files.length === 1) latest.current(files[0]);
      else tell("One file at a time, please; none of these was read.", true);
    }
    window.addEventListener("dragover", hang);
    window.addEventListener("dragleave", leave);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", hang);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("drop", drop);
    };
  }, []);
  return over ? <div className="dropping">Let go to read it</div> : null;
}

/** Any file that the product reads, dropped on any stage: weather, neighbours, plans and pictures, models. */
export function Dropped() {
  const { state, scheme } = useScheme();
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const onSite = pathname.split("/")[3] === "place";
  const [lay] = useLayUnder(onSite ? "place/underlays" : `schemes/${scheme.id}/underlays`);
  const { weather, neighbours } = usePlaceFiles();
  const sendModel = useSendModel();
  const [model, question] = useModelFile((file, more) => void sendModel(file, more));

  async function take(file: File) {
    const brings = readerOf(file)?.brings;
    if (brings === "weather") return weather(file);
    if (brings === "surroundings") return neighbours(file);
    if (brings === "model") return model(file);
    if (brings !== "drawing")
      return tell(
        `“${file.name}” is none of the files that are read: weather (${namesOf("weather")}), models (${namesOf("model")}), plans and pictures (${namesOf("drawing")}), neighbours (${namesOf("surroundings")}).`,
        true,
      );
    await lay(file);
    if (!onSite) navigate(`/p/${state.id}/shape/${scheme.id}`);
  }
  const hanging = useDropped((file) => void take(file));
  return (
    <>
      {hanging}
      {question}
    </>
  );
}
