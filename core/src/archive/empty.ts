import type { Archive } from "../contract/index.ts";

/** An archive with nothing in it but what a workshop is called, its money, and the places that it always has. */
export const emptyArchive = (workshop: Archive["workshop"], places: Archive["places"]): Archive => ({
  workshop,
  components: [],
  people: [],
  suppliers: [],
  places,
  jars: [],
  lots: [],
  ledger: [],
  balances: [],
  totals: [],
  orders: [],
  setAside: [],
  stocktakes: [],
  requests: [],
  designs: [],
  boxes: [],
  runs: [],
});
