import { useQuery } from "@tanstack/react-query";
import { ask, client } from "../../api/client";
import { about } from "../../api/topic";

export const useDrills = () =>
  useQuery({ queryKey: about("drills"), queryFn: () => ask(client.GET("/drills")), staleTime: Infinity });

export const useFigure = (id: string, wanted: boolean) =>
  useQuery({
    queryKey: about("drills", "figure", id),
    queryFn: () => ask(client.GET("/drills/{drill}/figure", { params: { path: { drill: id } } })),
    enabled: wanted,
    staleTime: Infinity,
  });
