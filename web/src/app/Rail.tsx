import { NavLink } from "react-router";
import { useRegister, useRemarks, useScheme } from "../api/hooks";

const glyphs: Record<string, string> = {
  place: "M10 3a7 7 0 1 0 .01 0M10 14V6M7 9l3-3 3 3",
  shape: "M2 17V9h7v8zM9 17V4h9v13z",
  skin: "M4 3v14M8 3v14M12 6h5v8h-5zM12 10h5",
  use: "M2 15h4V6h4v9h4v-5h4",
  plant: "M6 10a3 3 0 1 0 .01 0M9 13h4M15 9v8M11 13h8",
  study: "M4 3v14M10 3v14M16 3v14M2 12h4M8 6h4M14 9h4",
  findings: "M4 17V10M10 17V4M16 17v-5",
};

const stages = ["place", "shape", "skin", "use", "plant", "study", "findings"] as const;

/** The seven stages; none is a wizard's step. A count says how much is missing or doubtful there. */
export function Rail() {
  const { state, scheme } = useScheme();
  const open = useRemarks().filter((r) => r.weight === "missing" || r.weight === "doubtful");
  const assumed = useRegister().data?.values.length;
  return (
    <nav className="rail" aria-label="Stages">
      {stages.map((stage) => {
        const count = open.filter((r) => r.stage === stage).length;
        const name = stage[0].toUpperCase() + stage.slice(1);
        return (
          <div key={stage}>
            {stage === "study" && <hr />}
            <NavLink className="stage" to={`/p/${state.id}/${stage}/${scheme.id}`}>
              <svg
                width="20"
                height="20"
                fill="none"
                stroke="currentColor"
                strokeWidth="1.6"
                strokeLinejoin="round"
                aria-hidden="true"
              >
                <path d={glyphs[stage]} />
              </svg>
              {name}
              {count > 0 && (
                <span className="count" title={`${count} missing or doubtful`}>
                  {count}
                  <span className="sr"> missing or doubtful</span>
                </span>
              )}
            </NavLink>
          </div>
        );
      })}
      <NavLink
        className="stage small"
        style={{ marginTop: "auto" }}
        to={`/p/${state.id}/assumed/${scheme.id}`}
        title="Every value that nobody gave"
      >
        {assumed ?? ""} assumed
      </NavLink>
    </nav>
  );
}
