import { useQuery } from "@tanstack/react-query";
import { ask, client } from "../../api/client";
import { about } from "../../api/topic";

export const useFeedback = (id: string) =>
  useQuery({
    queryKey: about("feedback", id),
    queryFn: () => ask(client.GET("/attempts/{id}/feedback", { params: { path: { id } } })),
    staleTime: 0,
  });
