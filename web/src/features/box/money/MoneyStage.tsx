import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { postageQuery } from "../../../api/queries.ts";
import { ButtonLink } from "../../../ui/ButtonLink.tsx";
import { Empty, Segmented } from "../../../ui/controls.tsx";
import { isPostageSimulated } from "../../../ui/costWords.ts";
import { later } from "../../../ui/later.tsx";
import { Diamond } from "../../../ui/marks.tsx";
import { sayDay } from "../../../ui/month.ts";
import { holdsSomething, useBox } from "../boxStore.ts";
import { CostView } from "./CostView.tsx";
import { PriceView } from "./PriceView.tsx";

// What searches or draws more comes when it is opened.
const WhatIfView = later(async () => (await import("./WhatIfView.tsx")).WhatIfView);
const HowManyView = later(async () => (await import("./HowManyView.tsx")).HowManyView);

const VIEWS = [
  { value: "cost", label: "Cost", view: CostView },
  { value: "what-if", label: "What if", view: WhatIfView },
  { value: "price", label: "Price", view: PriceView },
  { value: "how-many", label: "How many", view: HowManyView },
] as const;

/** What a box costs and earns, what would be otherwise, what to ask for it, and how many to make. */
export function MoneyStage() {
  const [params, setParams] = useSearchParams();
  const asked = params.get("view");
  const { value, view: View } = VIEWS.find((v) => v.value === asked) ?? VIEWS[0];
  const { id, noLines, empty } = useBox(
    useShallow(({ box, steps }) => ({
      id: box.id,
      noLines: !holdsSomething(box),
      empty: !steps || steps.variants.length === 0 || !holdsSomething(box),
    })),
  );
  if (empty) {
    return (
      <Empty
        title="Nothing to cost yet"
        action={
          <ButtonLink look="main" to={`/months/${id}/${noLines ? "designs" : "colours"}`}>
            {noLines ? "Add a design" : "Add a colourway"}
          </ButtonLink>
        }
      >
        Costs follow the counts: a design, a colourway and what a pack costs.
      </Empty>
    );
  }
  const open = (next: string) =>
    setParams(
      (before) => {
        if (next === "cost") before.delete("view");
        else before.set("view", next);
        return before;
      },
      { replace: true },
    );
  return (
    <div className="pt-4">
      <div className="mx-6 mb-4 flex flex-wrap items-center justify-between gap-3">
        <Segmented label="Of money" value={value} options={VIEWS} onChange={open} />
        <CarrierNotice />
      </div>
      <View />
    </div>
  );
}

/** Says where the carrier is away, and as of when its rates are that stand in for it. */
function CarrierNotice() {
  const postage = useQuery(postageQuery).data;
  const zone = useBox((w) => w.terms?.money.zone);
  const simulated = useBox((w) => w.terms !== null && isPostageSimulated(w.terms));
  if (!zone) return null;
  if (simulated && !postage?.fault) {
    return (
      <p className="max-w-md text-sm text-muted">
        <Diamond className="text-low" /> Postage is the simulated carrier’s, made up.{" "}
        <Link className="link" to="/workshop/money">
          Name yours
        </Link>
      </p>
    );
  }
  if (!postage?.fault) return null;
  return (
    <p role="status" className="max-w-md text-sm">
      <Diamond className="text-low" /> {postage.fault}{" "}
      {postage.asOf === null
        ? "Posting is not in these costs."
        : `Posting is as it said last, on ${sayDay(postage.asOf)}.`}
    </p>
  );
}
