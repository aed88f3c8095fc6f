import { type Archive, MoneyInput } from "../contract/index.ts";

/** An archive with nothing in it but what a workshop is called, its money, and the places that it always has. */
export const emptyArchive = (workshop: Archive["workshop"], places: Archive["places"]): Archive => ({
  workshop,
  money: { ...MoneyInput.parse({}), saved: 1, postage: null },
  sales: [],
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
