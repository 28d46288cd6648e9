import { useEffect, useRef, useState } from "react";

/** An ECharts picture, loaded when first needed, with its table for those who do not see it. */
export function Chart({
  option,
  height,
  label,
  onPick,
  onBrush,
  merge = false,
}: {
  option: Record<string, unknown>;
  height: number | string;
  label: string;
  onPick?: (name: string, data: unknown) => void;
  /** Told which stretches are drawn on a parallel axis, by the axis' id; none where they were taken away. */
  onBrush?: (axis: string, stretches: [number, number][]) => void;
  /** Whether a new option leaves what was drawn on the picture. */
  merge?: boolean;
}) {
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<{
    setOption: (o: unknown, replace?: boolean) => void;
    dispose: () => void;
    resize: () => void;
  } | null>(null);
  const latest = useRef({ option, onPick, onBrush });
  latest.current = { option, onPick, onBrush };
  const [ready, setReady] = useState(false);

  useEffect(() => {
    let gone = false;
    let watch: ResizeObserver | null = null;
    void import("./echarts").then(({ echarts }) => {
      if (gone || !box.current) return;
      const made = echarts.init(box.current);
      chart.current = made;
      made.on("click", (e: { name: string; data: unknown }) => latest.current.onPick?.(e.name, e.data));
      made.on("axisareaselected", (e) => {
        const told = e as { parallelAxisId?: string; intervals?: [number, number][] };
        if (told.parallelAxisId !== undefined) latest.current.onBrush?.(told.parallelAxisId, told.intervals ?? []);
      });
      watch = new ResizeObserver(() => made.resize());
      watch.observe(box.current);
      setReady(true);
    });
    return () => {
      gone = true;
      watch?.disconnect();
      chart.current?.dispose();
      chart.current = null;
    };
  }, []);

  useEffect(() => {
    if (ready)
      chart.current?.setOption(
        { animation: false, aria: { enabled: true, label: { description: label } }, ...option },
        !merge,
      );
  }, [option, label, ready, merge]);

  // the picture lies over its place and never widens it, so that it follows when the window is made narrower
  return (
    <div style={{ position: "relative", height, width: "100%", minWidth: 0 }}>
      <div ref={box} style={{ position: "absolute", inset: 0 }} role="img" aria-label={label} />
    </div>
  );
}
