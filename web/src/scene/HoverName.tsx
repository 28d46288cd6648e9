import { type RefObject, useEffect, useRef, useState } from "react";

interface Named {
  name: string;
  x: number;
  y: number;
}
export type ShowName = (at: Named | null) => void;

/** What a view calls to tell the name of the thing under the pointer; only the name is drawn anew. */
export function useHoverName(): RefObject<ShowName> {
  return useRef<ShowName>(() => {});
}

export function HoverName({ show }: { show: RefObject<ShowName> }) {
  const [at, setAt] = useState<Named | null>(null);
  useEffect(() => {
    show.current = setAt;
    return () => {
      show.current = () => {};
    };
  }, [show]);
  return (
    at && (
      <div className="hover-name" style={{ left: at.x + 14, top: at.y + 8 }}>
        {at.name}
      </div>
    )
  );
}
