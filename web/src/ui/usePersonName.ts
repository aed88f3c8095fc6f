import { useQuery } from "@tanstack/react-query";
import { useSettings } from "../settings/index.ts";
import { roomsQuery } from "../api/queries.ts";

/** The name of whoever is at the bench; empty where nobody was chosen. */
export function usePersonName(): string {
  const person = useSettings((s) => s.person);
  return useQuery(roomsQuery).data?.people.find((p) => p.id === person)?.name ?? "";
}
