import { useQuery } from "@tanstack/react-query";
import { client, got, type Schemas } from "../../api/client";
import { useProjectId } from "../../api/hooks";
import { Carpet } from "../../charts/Carpet";

/** The year of one light sensor as a carpet. */
export function SensorYear({ number, sensors }: { number: number; sensors: Schemas["SensorsOut"] }) {
  const project = useProjectId();
  const { scheme, revision } = sensors;
  const year = useQuery({
    queryKey: ["sensor", project, scheme, revision, number],
    queryFn: () =>
      got(
        client.GET("/api/projects/{project_id}/schemes/{scheme_id}/daylight/sensors/{number}", {
          params: { path: { project_id: project, scheme_id: scheme, number } },
        }),
      ),
    placeholderData: (before) => before,
  }).data;
  if (!year) return null;
  const series = {
    values: year.lux,
    unit: "lx",
    title: "daylight",
    case: "",
    case_name: "",
    zone: "",
    zone_name: "",
    line: "daylight_lx",
  };
  return (
    <div data-sensor-year={number}>
      <Carpet series={[series]} what="Daylight" most={2000} />
    </div>
  );
}
