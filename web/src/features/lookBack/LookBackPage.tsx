import type { LookedBack } from "@jar-count/core/contract";
import { sumOfMoney } from "@jar-count/core/cost";
import { type WrongPlan, wrongMost } from "@jar-count/core/price";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { lookBackQuery, measuredQuery, soldMonthsQuery } from "../../api/queries.ts";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Empty } from "../../ui/controls.tsx";
import { DataTable } from "../../ui/DataTable.tsx";
import { Diamond, sayNumber } from "../../ui/marks.tsx";
import { useCurrency, useSayAbout, useSayMoney } from "../../ui/money.ts";
import { monthName } from "../../ui/month.ts";
import { Leading, Page, PageHead, TallyHead, TallyRow } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";

/** Months that are packed: their plan beside what came of it. */
export function LookBackPage() {
  const found = useQuery(lookBackQuery);
  const measured = useQuery(measuredQuery).data;
  const say = useSayAbout();
  const sold = useQuery(soldMonthsQuery).data?.months ?? [];
  if (!found.data) return <Waiting error={found.error} what="what was packed" retry={() => void found.refetch()} />;
  const months = found.data;
  const worst = wrongMost(months);
  const money = sold.filter((m) => m.made !== null);
  const sayPlan = ({ what, came, planned }: WrongPlan) => {
    const of = (n: number) => (what === "parts" ? say(n) : sayNumber(n, 0));
    return what === "sales" ? `${of(came)} of ${of(planned)}` : `${of(came)} instead of ${of(planned)}`;
  };
  const tally = (
    <>
      <TallyHead what="Boxes that are packed" />
      {worst && (
        <>
          <Leading n={`${sayNumber(Math.abs(worst.part) * 100, 0)} %`}>
            {worst.part > 0 ? "more" : PLAN_WORDS[worst.what].fewer} {PLAN_WORDS[worst.what].than}: {worst.name},{" "}
            {monthName(worst.month)}, {sayPlan(worst)}
          </Leading>
          <p className="mb-2 text-xs text-muted">No other plan was off by more.</p>
        </>
      )}
      <dl>
        <TallyRow label="Months packed">{sayNumber(months.length)}</TallyRow>
        <TallyRow label="Months sold out">{sayNumber(money.filter((m) => m.soldOut).length)}</TallyRow>
        {measured && measured.boxes > 0 && (
          <TallyRow label="A box at the bench">
            {sayNumber(measured.seconds / 60)} min
            <span className="block text-xs font-normal text-muted">
              planned {sayNumber(measured.planned / 60)} min; timed on {sayNumber(measured.boxes)} of{" "}
              {sayNumber(months.reduce((n, m) => n + m.packed, 0))} boxes packed
            </span>
          </TallyRow>
        )}
      </dl>
      {measured && measured.boxes > 0 && (
        <p className="mt-3 text-sm">
          <Link className="link" to="/workshop/money">
            Take these times over as rates
          </Link>
        </p>
      )}
    </>
  );
  return (
    <Page title="Look back" tally={tally}>
      <PageHead
        title="Look back"
        about="What was planned of each month, and what came of it: parts, minutes and sales, by colourway."
      />
      {months.length === 0 ? (
        <Empty
          title="Nothing is packed yet"
          action={
            <ButtonLink look="main" to="/">
              To the months
            </ButtonLink>
          }
        >
          As soon as boxes of a committed month are packed, what they took stands here beside what was planned.
        </Empty>
      ) : (
        months.map((m) => <Month key={m.box} of={m} sold={sold.find((s) => s.box === m.box)?.made ?? null} />)
      )}
      {sold.length > 0 && <Sales months={sold} />}
    </Page>
  );
}

const PLAN_WORDS: Record<WrongPlan["what"], { fewer: string; than: string }> = {
  parts: { fewer: "less", than: "spent on parts than planned" },
  minutes: { fewer: "fewer", than: "minutes at the bench than planned" },
  sales: { fewer: "fewer", than: "boxes sold than made" },
};

const off = (plan: number, real: number) => {
  if (plan === 0) return "";
  const part = Math.round((real / plan - 1) * 100);
  return part === 0 ? "as planned" : `${part > 0 ? "+" : "−"}${Math.abs(part)} %`;
};

function Month({ of, sold }: { of: LookedBack; sold: number | null }) {
  const money = useSayMoney();
  const currency = useCurrency();
  const sum = (pick: (v: LookedBack["variants"][number]) => string) => sumOfMoney(of.variants.map(pick), currency);
  const planned = sum((v) => v.planned);
  const real = sum((v) => v.real);
  const minutes = (pick: (v: LookedBack["variants"][number]) => number | null) =>
    // The sum of what is shown.
    of.variants.reduce((n, v) => n + Math.round(pick(v) ?? 0), 0);
  const strayed = (more: string) => `${money(more.replace("-", ""))} ${Number(more) > 0 ? "more" : "less"} than billed`;
  const far = (plan: number, now: number) => Math.abs(now / plan - 1) > 0.1;
  const Off = ({ plan, now }: { plan: number; now: number }) => (
    <span className={far(plan, now) ? "font-semibold" : "text-muted"}>
      {far(plan, now) && <Diamond className="text-low" />} {off(plan, now)}
    </span>
  );
  return (
    <section aria-label={`${monthName(of.month, true)}, ${of.theme}`} className="px-6 pb-8">
      <h2 className="mb-1">
        <Link className="link" to={`/months/${of.box}/pack`}>
          {monthName(of.month, true)}, {of.theme}
        </Link>
      </h2>
      <p className="mb-2 text-muted">
        {sayNumber(of.packed)} of {sayNumber(of.boxes)} packed
        {sold !== null && `, ${sayNumber(of.sold)} of ${sayNumber(sold)} sold`}.
        {of.worst && Number(of.worst.more) !== 0 && ` ${of.worst.component} strayed most: ${strayed(of.worst.more)}.`}
      </p>
      <DataTable
        early
        rows={of.variants}
        rowKey={(v) => v.name}
        testId="looked-back"
        columns={[
          { head: "Colourway", names: true, wide: true, look: "[overflow-wrap:anywhere]", cell: (v) => v.name },
          { head: "packed", number: true, cell: (v) => `${sayNumber(v.packed)} of ${sayNumber(v.boxes)}` },
          { head: "parts planned", number: true, look: "text-muted", cell: (v) => money(v.planned) },
          { head: "real", number: true, cell: (v) => money(v.real) },
          { head: "off plan", number: true, cell: (v) => <Off plan={Number(v.planned)} now={Number(v.real)} /> },
          {
            head: "minutes planned",
            number: true,
            look: "text-muted",
            cell: (v) => sayNumber(v.plannedMinutes, 0),
          },
          {
            head: "real",
            number: true,
            cell: (v) => (v.realMinutes === null ? "not timed" : sayNumber(v.realMinutes, 0)),
          },
          {
            head: "off plan",
            number: true,
            cell: (v) => v.realMinutes !== null && <Off plan={v.plannedMinutes} now={v.realMinutes} />,
          },
          { head: "sold", number: true, cell: (v) => `${sayNumber(v.sold)} of ${sayNumber(v.boxes)}` },
        ]}
        foot={
          <tr className="font-semibold">
            <th scope="row" className="text-left font-semibold!">
              All
            </th>
            <td data-head="packed" className="num">
              {sayNumber(of.packed)}
            </td>
            <td data-head="parts planned" className="num">
              {money(planned)}
            </td>
            <td data-head="real" className="num">
              {money(real)}
            </td>
            <td data-head="off plan" className="num">
              {off(Number(planned), Number(real))}
            </td>
            <td data-head="minutes planned" className="num">
              {sayNumber(
                minutes((v) => v.plannedMinutes),
                0,
              )}
            </td>
            <td data-head="real" className="num">
              {sayNumber(
                minutes((v) => v.realMinutes),
                0,
              )}
            </td>
            <td />
            <td data-head="sold" className="num">
              {sayNumber(of.sold)}
            </td>
          </tr>
        }
      />
    </section>
  );
}

interface SoldRow {
  month: string;
  theme: string;
  sold: number;
  returned: number;
  made: number | null;
  soldOut: boolean;
  paid: string | null;
}

/** What every month sold, whether it was packed here or not. */
function Sales({ months }: { months: readonly SoldRow[] }) {
  const money = useSayMoney();
  return (
    <section aria-label="Sales by month" className="px-6 pb-8">
      <h2 className="mb-2">Sales by month</h2>
      <DataTable
        rows={[...months].reverse()}
        rowKey={(m) => `${m.month} ${m.theme}`}
        columns={[
          { head: "Month", names: true, look: "whitespace-nowrap", cell: (m) => monthName(m.month, true) },
          { head: "Box", wide: true, look: "[overflow-wrap:anywhere]", cell: (m) => m.theme },
          { head: "sold", number: true, look: "font-semibold", cell: (m) => sayNumber(m.sold) },
          { head: "of", number: true, look: "text-muted", cell: (m) => (m.made === null ? "" : sayNumber(m.made)) },
          { head: "came back", number: true, cell: (m) => sayNumber(m.returned) },
          { head: "paid", number: true, cell: (m) => (m.paid === null ? "" : money(m.paid)) },
          { head: "", cell: (m) => m.soldOut && <span className="font-medium">sold out</span> },
        ]}
      />
      <p className="pt-2 text-sm">
        <Link className="link" to="/tables/sales">
          Bring sales in
        </Link>
      </p>
    </section>
  );
}
