import { Button } from "@mui/material";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { client, got, type Schemas, ServerFault } from "../../api/client";
import { make } from "../../api/edits";
import { useEdit, useProject } from "../../api/hooks";
import { tell } from "../../app/state";

type Kept = Schemas["Library"];
type Group = "constructions" | "materials" | "glazings" | "profiles";
const groups: [Group, string][] = [
  ["constructions", "Constructions"],
  ["materials", "Materials"],
  ["glazings", "Windows"],
  ["profiles", "Use profiles"],
];

/** What the user keeps for all projects. */
function useOwnLibrary() {
  return useQuery({ queryKey: ["own-library"], queryFn: () => got(client.GET("/api/library")) });
}

/** Keeps a thing of this project's library for all projects. */
export function KeepButton({ group, id }: { group: Group; id: string }) {
  const queries = useQueryClient();
  const given = useProject().data?.given as { library?: Record<string, { id: string; name: string }[]> } | undefined;
  const item = given?.library?.[group]?.find((o) => o.id === id);
  const kept = useOwnLibrary().data;
  if (!item) return null;
  const same = (kept?.[group] ?? []).some((o) => o.id === id);
  async function keep() {
    if (!item) return;
    try {
      const all = await got(
        client.POST("/api/library/{group}", {
          params: { path: { group } },
          body: { ...item },
        }),
      );
      queries.setQueryData(["own-library"], all);
      tell(`“${item.name}” is kept for all your projects.`);
    } catch (fault) {
      tell(fault instanceof ServerFault ? fault.message : String(fault), true);
    }
  }
  return (
    <Button variant="outlined" onClick={() => void keep()}>
      {same ? "Replace the kept one" : "Keep for all projects"}
    </Button>
  );
}

/** What is kept for all projects, to take into this one. */
export function OwnLibrary() {
  const queries = useQueryClient();
  const edit = useEdit();
  const kept: Kept | undefined = useOwnLibrary().data;
  const count = groups.reduce((n, [g]) => n + (kept?.[g] ?? []).length, 0);

  async function drop(group: Group, entry: string) {
    const all = await got(client.DELETE("/api/library/{group}/{entry}", { params: { path: { group, entry } } }));
    queries.setQueryData(["own-library"], all);
  }
  return (
    <details>
      <summary>
        Kept for all projects <span className="quiet">{count || "nothing yet"}</span>
      </summary>
      {groups.map(([group, title]) => {
        const items = kept?.[group] ?? [];
        if (items.length === 0) return null;
        return (
          <div key={group}>
            <h4>{title}</h4>
            {items.map((item) => (
              <div key={item.id} className="spread small" data-kept={item.id}>
                <span>{item.name}</span>
                <span className="row">
                  <button
                    type="button"
                    className="plain assumed"
                    aria-label={`Take ${item.name} into this project`}
                    onClick={async () => {
                      if (await edit(make.put(`library/${group}`, item)))
                        tell(`“${item.name}” is in this project's library now.`);
                    }}
                  >
                    take
                  </button>
                  <button
                    type="button"
                    className="plain assumed"
                    aria-label={`Remove ${item.name} from what is kept`}
                    onClick={() => void drop(group, item.id)}
                  >
                    remove
                  </button>
                </span>
              </div>
            ))}
          </div>
        );
      })}
    </details>
  );
}
