import { tone } from "../app/tokens";

const text = { color: tone.quiet, fontFamily: "Instrument Sans Variable", fontSize: 11.5 };

export const grid = { left: 44, right: 12, top: 26, bottom: 24 };
export const textStyle = text;
export const category = (data: string[]) => ({
  type: "category",
  data,
  axisLine: { lineStyle: { color: tone.line } },
  axisTick: { show: false },
  axisLabel: text,
});
export const value = (name: string, more: Record<string, unknown> = {}) => ({
  type: "value",
  name,
  nameTextStyle: { ...text, align: "left" },
  nameGap: 10,
  splitLine: { lineStyle: { color: "#EBE6DB" } },
  axisLabel: text,
  ...more,
});
export const tooltip = {
  trigger: "axis",
  textStyle: { fontSize: 12, fontFamily: "Instrument Sans Variable" },
  padding: 6,
  confine: true,
};
