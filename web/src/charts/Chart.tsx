import { useEffect, useRef, useState } from "react";

/** An ECharts picture, loaded when first needed, with its table for those who do not see it. */
export function Chart({
  option,
  height,
  label,
  onPick,
}: {
  option: Record<string, unknown>;
  height: number | string;
  label: string;
  onPick?: (name: string, data: unknown) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<{
    setOption: (o: unknown, replace?: boolean) => void;
    dispose: () => void;
    resize: () => void;
  } | null>(null);
  const latest = useRef({ option, onPick });
  latest.current = { option, onPick };
  const [ready, setReady] = useState(false);

  useEffect(() => {
    let gone = false;
    let watch: ResizeObserver | null = null;
    void import("./echarts").then(({ echarts }) => {
      if (gone || !box.current) return;
      const made = echarts.init(box.current);
      chart.current = made;
      made.on("click", (e: { name: string; data: unknown }) => latest.current.onPick?.(e.name, e.data));
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
        true,
      );
  }, [option, label, ready]);

  return <div ref={box} style={{ height, width: "100%" }} role="img" aria-label={label} />;
}
