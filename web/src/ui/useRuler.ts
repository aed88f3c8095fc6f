import type { LengthUnit } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { workshopQuery } from "../api/queries.ts";

/** By which marks the workshop measures its cuts. */
export const useRuler = (): LengthUnit => useQuery(workshopQuery).data?.ruler ?? "in";
