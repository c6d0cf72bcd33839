import { ask, client } from "../../api/client";
import { useChange } from "../../api/topic";

export const usePlanFolder = () =>
  useChange((files: { name: string; modified?: string }[]) => ask(client.POST("/folder", { body: { files } })));
