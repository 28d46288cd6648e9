import { Line } from "@react-three/drei";
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { client, got } from "../api/client";
import { useProjectId, useScheme } from "../api/hooks";
import { passed } from "../app/stable";
import { tone } from "../app/tokens";

/** The sun of a day: where it stands every ten minutes while it is up. */
export interface SunDay {
  day: number;
  latitude_deg: number;
  longitude_deg: number;
  altitude_m: number;
  time_zone_h: number;
  hours: number[];
  toward: number[][];
}

/** The sun of a day at this place, as the drawing lies; null without weather. */
export function useSunDay(day: number | null): SunDay | null {
  const project = useProjectId();
  const { state } = useScheme();
  const place = state.completed.place;
  const key = [
    place?.north_deg,
    place?.latitude_deg,
    place?.longitude_deg,
    place?.altitude_m,
    place?.time_zone_h,
    place?.climate?.id,
  ];
  const found = useQuery({
    queryKey: ["sun", project, day, ...key],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/sun", {
          params: { path: { project_id: project }, query: { day: day ?? 0 } },
        }),
      ),
    enabled: day !== null && Boolean(place?.climate),
    placeholderData: (before) => before,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return found.data ?? null;
}

/** Where the sun stands at an hour of its day; null while it is down. */
export function sunAt(sun: SunDay | null, hour: number): number[] | null {
  if (!sun || sun.hours.length === 0) return null;
  const k = sun.hours.findIndex((h) => h >= hour);
  if (k < 0 || (k === 0 && sun.hours[0] - hour > 0.1)) return null;
  if (k === 0) return sun.toward[0];
  const [a, b] = [sun.toward[k - 1], sun.toward[k]];
  const span = sun.hours[k] - sun.hours[k - 1];
  if (span > 0.5) return null;
  const share = (hour - sun.hours[k - 1]) / span;
  const mixed = a.map((v, i) => v + (b[i] - v) * share);
  const long = Math.hypot(...mixed);
  return mixed.map((v) => v / long);
}

/** How far a metre of height throws its shadow, in the drawing. */
export const throwOf = (toward: number[]): [number, number] => [-toward[0] / toward[2], -toward[1] / toward[2]];

/** The sun's way over the model on the solstices and the equinox, on the day itself, and the sun in its hour. */
export function SunPath3D({
  day,
  hour,
  middle,
  reach,
}: {
  day: number;
  hour: number;
  middle: number[];
  reach: number;
}) {
  const today = useSunDay(day);
  const [summer, equinox, winter] = [useSunDay(171), useSunDay(79), useSunDay(354)];
  const at = (v: number[]) => [0, 1, 2].map((i) => middle[i] + v[i] * reach) as [number, number, number];
  const rim = useMemo(
    () =>
      Array.from({ length: 73 }, (_, i) => {
        const a = (i * Math.PI) / 36;
        return [middle[0] + Math.sin(a) * reach, middle[1] + Math.cos(a) * reach, middle[2]] as [
          number,
          number,
          number,
        ];
      }),
    [middle, reach],
  );
  const now = sunAt(today, hour);
  const way = (sun: SunDay | null, colour: string, width: number, dashed = false) =>
    sun &&
    parts(sun).map((p, i) => (
      <Line
        key={`${sun.day}-${i}`}
        points={p.map(at)}
        color={colour}
        lineWidth={width}
        dashed={dashed}
        dashSize={reach / 40}
        gapSize={reach / 60}
        raycast={passed}
      />
    ));
  return (
    <>
      <Line points={rim} color="#C4BCAB" lineWidth={1} raycast={passed} />
      {way(summer, tone.brass, 1, true)}
      {way(equinox, tone.brass, 1, true)}
      {way(winter, tone.brass, 1, true)}
      {way(today, tone.brass, 2)}
      {now && (
        <mesh position={at(now)} raycast={passed}>
          <sphereGeometry args={[reach / 36, 20, 14]} />
          <meshBasicMaterial color="#E8C04A" />
        </mesh>
      )}
    </>
  );
}

/** A day's way in pieces: above the polar circle the sun may be up before and after midnight and down between. */
function parts(sun: SunDay): number[][][] {
  const out: number[][][] = [];
  sun.toward.forEach((v, i) => {
    if (i === 0 || sun.hours[i] - sun.hours[i - 1] > 0.5) out.push([]);
    out[out.length - 1].push(v);
  });
  return out.filter((p) => p.length > 1);
}
