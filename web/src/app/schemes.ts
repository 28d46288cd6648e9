import { useQueryClient } from "@tanstack/react-query";
import { useLocation, useNavigate } from "react-router";
import { client, type Edit, got } from "../api/client";
import { make } from "../api/edits";
import { useEdit, useScheme } from "../api/hooks";
import { askName } from "./Ask";
import { tell } from "./state";
import { freshId } from "./words";

/** What can be done with the schemes of a project. */
export function useSchemes() {
  const { state } = useScheme();
  const edit = useEdit();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const stage = useLocation().pathname.split("/")[3] ?? "shape";
  const schemes = state.completed.schemes;
  const fresh = () =>
    freshId(
      "scheme",
      schemes.map((s) => s.id),
    );
  const nameOf = (id: string) => schemes.find((s) => s.id === id)?.name ?? "";

  return {
    schemes,
    reference: state.completed.reference,
    async add() {
      const id = fresh();
      if (await edit(make.put("schemes", { id, name: `Scheme ${schemes.length + 1}` })))
        navigate(`/p/${state.id}/shape/${id}`);
    },
    async duplicate(from: string) {
      const id = fresh();
      const name = `${nameOf(from)} copy`;
      if (await edit({ op: "duplicate_scheme", scheme: from, id, name } as Edit))
        navigate(`/p/${state.id}/${stage}/${id}`);
    },
    async rename(id: string) {
      const name = await askName("Name of this scheme", nameOf(id));
      if (name) void edit(make.set(`schemes/${id}/name`, name));
    },
    /** Pins a scheme as it stands, to be seen beside others in Findings. */
    async pin(id: string) {
      const params = { path: { project_id: state.id } };
      await got(client.POST("/api/projects/{project_id}/pins", { params, body: { scheme: id } }));
      await queries.invalidateQueries({ queryKey: ["pins", state.id] });
      await queries.invalidateQueries({ queryKey: ["findings", state.id] });
      tell(`${nameOf(id)} is pinned as it stands; see Findings.`);
    },
    makeReference(id: string) {
      void edit(make.set("reference", id));
    },
    async remove(id: string) {
      if (await edit(make.remove(`schemes/${id}`))) tell("Scheme removed. Undo brings it back.");
    },
  };
}
