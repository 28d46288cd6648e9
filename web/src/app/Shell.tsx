import { useEffect } from "react";
import { Outlet, useLocation, useNavigate, useParams } from "react-router";
import { useOthers, useProject, useWalk } from "../api/hooks";
import { Dropped } from "./Dropped";
import { Finder } from "./finder/Finder";
import { useFocusKept } from "./focus";
import { Help } from "./Help";
import { Notice } from "./Notice";
import { Rail } from "./Rail";
import { Readout } from "./Readout";
import { useView } from "./state";
import { TitleLine } from "./TitleLine";

const TYPED_IN = "textarea, input:not([type=range], [type=checkbox], [type=radio])";

/** The frame: stages at the left, title line, the stage itself, and the readout that is always there. */
export function Shell() {
  const project = useProject();
  const walk = useWalk();
  useOthers();
  useFocusKept();
  const navigate = useNavigate();
  const { scheme } = useParams();
  const { pathname } = useLocation();
  const set = useView((s) => s.set);
  const stage = pathname.split("/")[3] ?? "";

  useEffect(() => {
    if (!project.data) return;
    const schemes = project.data.completed.schemes;
    if (!stage || !scheme || !schemes.some((s) => s.id === scheme))
      navigate(`/p/${project.data.id}/${stage || "shape"}/${project.data.completed.reference}`, { replace: true });
  }, [project.data, scheme, stage, navigate]);

  useEffect(() => {
    if (scheme !== undefined)
      set({ selection: null, level: null, tried: null, faultAt: null, drawing: null, unseen: [] });
  }, [scheme, set]);

  useEffect(() => {
    /** The box in which something is typed that is not kept yet: there Ctrl+Z is the box's own. */
    let unkept: EventTarget | null = null;
    const typed = (e: Event) => {
      unkept = e.target instanceof HTMLElement && e.target.matches(TYPED_IN) ? e.target : null;
    };
    const left = () => {
      unkept = null;
    };
    function press(e: KeyboardEvent) {
      const typing = e.target instanceof HTMLElement && e.target.matches("input, textarea");
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "k") {
        e.preventDefault();
        set({ finder: true });
      } else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && (!typing || e.target !== unkept)) {
        e.preventDefault();
        walk.mutate(e.shiftKey ? "redo" : "undo");
      } else if (e.key === "Escape" && !typing) set({ selection: null, drawing: null });
      else if (e.key === "Escape" && e.target === unkept)
        unkept = null; // the box takes back what was typed
      else if (e.key === "Escape") (e.target as HTMLElement).blur(); // and keys are for the page again
    }
    window.addEventListener("keydown", press);
    window.addEventListener("input", typed);
    window.addEventListener("focusout", left);
    return () => {
      window.removeEventListener("keydown", press);
      window.removeEventListener("input", typed);
      window.removeEventListener("focusout", left);
    };
  }, [set, walk]);

  if (project.error)
    return (
      <div className="home">
        <h2>This project cannot be opened</h2>
        <p>{project.error.message}</p>
        <a href="/projects">All projects</a>
      </div>
    );
  if (!project.data || !scheme) return null;
  return (
    <div className="frame">
      <TitleLine />
      <Rail />
      <Outlet />
      <Readout folded={stage === "findings"} />
      <Finder />
      <Help />
      <Notice />
      <Dropped />
    </div>
  );
}
