import { type ReactNode, useEffect, useState } from "react";

/** Windows narrower than this have no room for what stands beside the cases, px. */
const NARROW = 1150;

function useNarrow(): boolean {
  const asked = window.matchMedia(`(max-width: ${NARROW}px)`);
  const [narrow, setNarrow] = useState(asked.matches);
  useEffect(() => {
    const query = window.matchMedia(`(max-width: ${NARROW}px)`);
    const follow = () => setNarrow(query.matches);
    query.addEventListener("change", follow);
    return () => query.removeEventListener("change", follow);
  }, []);
  return narrow;
}

/** What stands beside the cases; it folds to its name where the window is narrow, or when it is told to. */
export function Side({
  name,
  width,
  needed = false,
  children,
}: {
  name: string;
  /** Its width while it is open, px. */
  width: number;
  /** Whether nothing can be done without it, so that it stands open in a narrow window too. */
  needed?: boolean;
  children: ReactNode;
}) {
  const narrow = useNarrow();
  const [told, setTold] = useState<boolean | null>(null);
  const open = told ?? (needed || !narrow);
  return (
    <div className="side" data-open={open || undefined} style={{ width: open ? width : 34 }}>
      <button
        type="button"
        className="plain small side-fold"
        aria-expanded={open}
        aria-label={open ? `Fold: ${name}` : name}
        title={open ? `Fold “${name}”, to give the cases room` : undefined}
        onClick={() => setTold(!open)}
      >
        {open ? "fold" : name}
      </button>
      <div hidden={!open}>{children}</div>
    </div>
  );
}
