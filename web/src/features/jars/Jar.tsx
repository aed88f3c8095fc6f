import { CAUTION_WORDS, freeOf, isLow, isShort, pieceMass, replacementCost } from "@jar-count/core/component";
import { worthOf } from "@jar-count/core/cost";
import { howManyOf } from "@jar-count/core/cut";
import type { ComponentDetail } from "@jar-count/core/contract";
import { sayRun, expanded } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { Scale, Tag, X } from "lucide-react";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { Link, useParams } from "react-router";
import { componentQuery, designsQuery } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { useSettings } from "../../settings/index.ts";
import { Chip } from "../../ui/Bead.tsx";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button, Fault, IconButton } from "../../ui/controls.tsx";
import { LengthField, NumberField } from "../../ui/fields.tsx";
import { Field, useRefusalAtFields } from "../../ui/form.tsx";
import { CountMark, Diamond, JarGauge, sayNumber, Triangle, useSayQuantity } from "../../ui/marks.tsx";
import { useCurrency, useSayMoney } from "../../ui/money.ts";
import { monthName, sayDay } from "../../ui/month.ts";
import { usePlanned } from "../../ui/planned.ts";
import { Page, PageHead } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { WhereFrom } from "../../ui/WhereFrom.tsx";
import { ComponentForm } from "./ComponentForm.tsx";
import { LabelDialog } from "./LabelDialog.tsx";
import { Movements } from "./Movements.tsx";
import { StockForm } from "./StockForm.tsx";
import { jarChanged } from "./useStock.ts";
import { DataTable } from "../../ui/DataTable.tsx";

/** One jar: what it is, how much is in it and why; or a new one. */
export function Jar() {
  const { id } = useParams() as { id: string };
  return id === "new" ? <NewJar key="new" /> : <KnownJar key={id} id={id} />;
}

function NewJar() {
  return (
    <Page title="A new component">
      <PageHead back={{ to: "/jars", words: "Jars" }} title="A new component" />
      <ComponentForm id={null} component={null} />
    </Page>
  );
}

function KnownJar({ id }: { id: string }) {
  const found = useQuery(componentQuery(id));
  const [labelling, setLabelling] = useState(false);
  if (!found.data) return <Waiting error={found.error} what="the jar" retry={() => void found.refetch()} />;
  const { component } = found.data;
  const mass = pieceMass(component);
  return (
    <Page title={component.name}>
      <PageHead
        back={{ to: "/jars", words: "Jars" }}
        beside={<span className="font-mono text-muted">{component.code}</span>}
        mark={<Chip of={component} size={28} />}
        title={component.name}
        actions={
          <>
            <Button onClick={() => setLabelling(true)}>
              <Tag size={16} aria-hidden /> Label
            </Button>
            <ButtonLink look="main" to={`/jars/${id}/count`}>
              <Scale size={16} aria-hidden /> Count
            </ButtonLink>
          </>
        }
      />
      <Numbers detail={found.data} />
      <StockForm key={`stock-${component.id}`} detail={found.data} />
      <div className="grid grid-cols-1 gap-x-10 md:grid-cols-2">
        <Where detail={found.data} />
        <SetAside detail={found.data} />
      </div>
      <section className="px-6 pt-8" aria-label="Movements" id="movements">
        <h2 className="mb-2">What moved</h2>
        <Movements detail={found.data} />
      </section>
      <UsedIn id={component.id} />
      <section className="px-6 pt-8" aria-label="What it is">
        <h2>What it is</h2>
        {mass && (
          <p className="text-muted">
            A piece weighs {sayNumber(mass.g, 4)} g
            {mass.from === "estimated"
              ? ", an estimate from its shape and density until some are weighed"
              : mass.from === "measured"
                ? ", measured"
                : `, by pieces a gram (± ${sayNumber(expanded(mass.u), 4)} g)`}
            .
          </p>
        )}
        {component.cautions.length > 0 && (
          <p className="pt-1">
            <Diamond className="mr-1 text-low" />
            {component.cautions.map((c) => CAUTION_WORDS[c]).join(" ")}{" "}
            <span className="text-muted">Usual cautions; local rules and your own judgement come first.</span>
          </p>
        )}
      </section>
      <ComponentForm id={component.id} component={component} />
      {labelling && <LabelDialog components={[component]} onClose={() => setLabelling(false)} />}
    </Page>
  );
}

/** Where do I use this? */
function UsedIn({ id }: { id: string }) {
  const designs = useQuery(designsQuery);
  const found = designs.data?.filter((d) => d.components.includes(id)) ?? [];
  if (found.length === 0) return null;
  return (
    <section className="px-6 pt-8" aria-label="Where it is used">
      <h2>Where it is used</h2>
      <p>
        {found.map((d, i) => (
          <span key={d.id}>
            {i > 0 && ", "}
            <Link className="link" to={`/designs/${d.id}`}>
              {d.name}
            </Link>
          </span>
        ))}
      </p>
    </section>
  );
}

/** How much there is: free first, then what makes it; each number opens to what it is made of. */
function Numbers({ detail }: { detail: ComponentDetail }) {
  const { component: c, balances, setAside, spokenBy, due } = detail;
  const say = useSayQuantity();
  const planned = usePlanned();
  const plans = planned.by(c.id);
  const inStock = spokenBy.filter((s) => s.order === null);
  const spokenOn = (order: string) =>
    spokenBy
      .filter((s) => s.order === order)
      .map((s) => `; ${monthName(s.month)}, ${s.theme} speaks for ${say(s.quantity, c.baseUnit)}`)
      .join("");
  const unit = useSettings((s) => s.unit);
  const money = useSayMoney();
  const currency = useCurrency();
  const free = freeOf(c);
  const worth = c.averageCost === null ? null : worthOf(c.averageCost, c.onHand, currency);
  const now = replacementCost(c);
  // Stringing is priced by what one measures it in.
  const [length, lengthMm] = unit === "in" ? ["a foot", 304.8] : ["a metre", 1000];
  const a = c.baseUnit === "piece" ? "a piece" : c.baseUnit === "g" ? "a gram" : length;
  const per = (cost: string) =>
    money(c.baseUnit === "mm" ? worthOf(cost, lengthMm, currency) : cost.replace(/(\.\d{4})\d+$/, "$1"));
  const held = balances.filter((b) => b.held && b.quantity > 0);
  const amount = (b: (typeof balances)[number]) =>
    b.stretchMm === null ? say(b.quantity, c.baseUnit) : `${sayNumber(b.quantity)} × ${sayRun(b.stretchMm, unit)}`;
  const toLedger = () => document.getElementById("movements")?.scrollIntoView({ behavior: "smooth" });
  return (
    <div className="flex flex-wrap items-end gap-x-8 gap-y-2 px-6 pb-4">
      <p className="flex items-end gap-2">
        <JarGauge stock={c} planned={planned.of(c.id)} size={52} />
        <span>
          <span className="block text-xs text-muted">free</span>
          <strong className={`text-3xl leading-9 font-semibold ${free < 0 ? "text-short" : ""}`} data-testid="free">
            {free < 0 && <Triangle className="mr-1" />}
            {free < 0 ? `short by ${say(-free, c.baseUnit)}` : say(free, c.baseUnit)}
          </strong>
        </span>
      </p>
      <dl className="flex flex-wrap gap-x-8 gap-y-2">
        <Figure label="on hand">
          <span data-testid="on-hand">
            {balances.length === 0 ? (
              <CountMark n={c.onHand} u={c.u} of={c.baseUnit} />
            ) : (
              <WhereFrom
                label={`Where ${say(c.onHand, c.baseUnit)} on hand are`}
                title="Where they stand"
                total={say(c.onHand, c.baseUnit)}
                rows={() =>
                  balances.map((b, i) => ({
                    id: String(i),
                    where: [b.placeCode, b.lot && `lot ${b.lot}`].filter(Boolean).join(", "),
                    how:
                      b.u > 0
                        ? `± ${sayNumber(Math.max(1, expanded(b.u)), 0)}, 95 %; see what moved`
                        : "see what moved",
                    total: amount(b),
                    go: toLedger,
                  }))
                }
              >
                <CountMark n={c.onHand} u={c.u} of={c.baseUnit} />
              </WhereFrom>
            )}
          </span>
        </Figure>
        <Figure label="spoken for">
          {c.spokenFor === 0 ? (
            "nothing"
          ) : (
            <WhereFrom
              label={`What ${say(c.spokenFor, c.baseUnit)} are spoken for`}
              title="Spoken for"
              total={say(c.spokenFor, c.baseUnit)}
              rows={() => [
                ...inStock.map((s) => ({
                  id: `b${s.box}`,
                  where: `${monthName(s.month)}, ${s.theme}`,
                  how: `committed, packed by ${sayDay(s.packBy)}`,
                  total: say(s.quantity, c.baseUnit),
                  to: `/months/${s.box}/counts`,
                })),
                ...setAside.map((r) => ({
                  id: r.id,
                  where: r.purpose,
                  how: `since ${sayDay(r.at)}`,
                  total: r.cutMm ? `${sayNumber(r.quantity)} × ${sayRun(r.cutMm, unit)}` : say(r.quantity, c.baseUnit),
                })),
                ...held.map((b, i) => ({
                  id: `h${i}`,
                  where: `Held back at ${b.placeCode}`,
                  how: "see what moved",
                  total: amount(b),
                  go: toLedger,
                })),
              ]}
            >
              {say(c.spokenFor, c.baseUnit)}
            </WhereFrom>
          )}
        </Figure>
        {plans.length > 0 && (
          <Figure label="planned">
            <WhereFrom
              label={`Which planned boxes take ${say(planned.of(c.id), c.baseUnit)}`}
              title="Planned, not committed"
              total={say(planned.of(c.id), c.baseUnit)}
              rows={() =>
                plans.map((p) => ({
                  id: p.box.id,
                  where: `${monthName(p.box.month)}, ${p.box.theme}`,
                  how: `planned, packed by ${sayDay(p.on)}`,
                  total: say(p.quantity, c.baseUnit),
                  to: `/months/${p.box.id}/counts`,
                }))
              }
              note="Planned boxes take nothing yet: who commits first has it."
            >
              {say(planned.of(c.id), c.baseUnit)}
            </WhereFrom>
          </Figure>
        )}
        <Figure label="on the way">
          {c.onTheWay === 0 ? (
            "nothing"
          ) : (
            <WhereFrom
              label={`Where ${say(c.onTheWay, c.baseUnit)} on the way come from`}
              title="On the way"
              total={say(c.onTheWay, c.baseUnit)}
              rows={() =>
                due.map((d) => ({
                  id: d.order + d.quantity,
                  where: `${d.supplier}, order ${d.number}`,
                  how: (d.due ? `due ${sayDay(d.due)}` : "no date") + spokenOn(d.order),
                  total: say(d.quantity, c.baseUnit),
                  to: `/orders/${d.order}`,
                }))
              }
            >
              {say(c.onTheWay, c.baseUnit)}
            </WhereFrom>
          )}
        </Figure>
        <Figure label={`costs ${a}`}>
          {c.averageCost ? per(c.averageCost) : now ? per(now) : "not known"}
          <span className="block text-xs font-normal text-muted">
            {[c.averageCost && "average", c.lastCost && `last ${per(c.lastCost)}`, now && `new ${per(now)}`]
              .filter(Boolean)
              .join(" · ")}
          </span>
        </Figure>
        {worth && <Figure label="worth">{money(worth)}</Figure>}
      </dl>
      {(isShort(c) || isLow(c)) && (
        <p className={isShort(c) ? "text-short" : "text-low"}>
          {isShort(c) ? (
            <>
              <Triangle /> More is spoken for than is there.
            </>
          ) : (
            <>
              <Diamond /> At the point to order again ({say(c.reorderAt!, c.baseUnit)}).
            </>
          )}
        </p>
      )}
    </div>
  );
}

function Figure({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div>
      <dt className="text-xs text-muted">{label}</dt>
      <dd className="text-base font-semibold">{children}</dd>
    </div>
  );
}

/** Where it stands, and whether one piece is long enough. */
function Where({ detail }: { detail: ComponentDetail }) {
  const { component: c, balances } = detail;
  const say = useSayQuantity();
  const unit = useSettings((s) => s.unit);
  const [asked, setAsked] = useState<number | null>(null);
  const shown = balances.filter((b) => b.quantity > 0 || balances.length === 1);
  if (shown.length === 0) return null;
  const enough =
    asked === null
      ? 0
      : howManyOf(
          shown.map((b) => ({ mm: b.stretchMm ?? 0, count: b.quantity })),
          asked,
        );
  return (
    <section className="px-6 pt-6" aria-label="Where it stands">
      <h2 className="mb-1">Where it stands</h2>
      <DataTable
        bare
        rows={shown}
        rowKey={(b) => `${b.place} ${b.lot} ${b.stretchMm}`}
        columns={[
          {
            head: "Where",
            names: true,
            cell: (b) => (
              <>
                {b.placeCode}
                {b.lot && <span className="text-muted">, lot {b.lot}</span>}
                {b.held && <span className="text-muted">, held back</span>}
              </>
            ),
          },
          {
            head: "How much",
            number: true,
            cell: (b) =>
              b.stretchMm === null ? (
                <CountMark n={b.quantity} u={b.u} of={c.baseUnit} />
              ) : (
                <span className="font-semibold">
                  {sayNumber(b.quantity)} × {sayRun(b.stretchMm, unit)}
                </span>
              ),
          },
          {
            head: "Weights",
            number: true,
            look: "text-muted",
            cell: (b) =>
              [
                b.tareG !== null && `jar ${sayNumber(b.tareG, 2)} g`,
                b.unitMass && `piece ${sayNumber(b.unitMass.g, 4)} g`,
              ]
                .filter(Boolean)
                .join(", "),
          },
        ]}
      />
      {c.baseUnit === "mm" && (
        <p className="flex flex-wrap items-center gap-2 pt-2">
          Is there one piece of{" "}
          <LengthField
            aria-label="Is there one piece of"
            className="field w-24"
            optional
            mm={asked}
            onChange={setAsked}
          />
          {asked !== null && (
            <strong role="status">
              {enough > 0 ? `Yes: ${say(enough, "piece")} could be cut.` : "No single piece is long enough."}
            </strong>
          )}
        </p>
      )}
    </section>
  );
}

/** What is set aside, and setting more aside for a purpose. */
function SetAside({ detail }: { detail: ComponentDetail }) {
  const { component: c, setAside } = detail;
  const say = useSayQuantity();
  const unit = useSettings((s) => s.unit);
  const person = useSettings((s) => s.person);
  const { send, busy, refusal, clear } = useSend("setAside", jarChanged);
  const releasing = useSend("release", jarChanged);
  const form = useForm({
    defaultValues: { purpose: "", quantity: null as number | null, cutMm: null as number | null },
  });
  useRefusalAtFields(form, refusal, "");
  const { purpose, quantity, cutMm } = form.watch();
  const linear = c.baseUnit === "mm";
  const set = form.handleSubmit(async (filled) => {
    const body = { person, purpose: filled.purpose, quantity: filled.quantity!, ...(linear ? { cutMm } : {}) };
    const done = await send((requestKey) => ({ params: { id: c.id }, body: { ...body, requestKey } }));
    if (done) form.reset({ purpose: "", quantity: null, cutMm });
  });
  return (
    <section className="px-6 pt-6" aria-label="Set aside">
      <h2 className="mb-1">Set aside</h2>
      {setAside.length > 0 && (
        <DataTable
          bare
          rows={setAside}
          rowKey={(r) => r.id}
          columns={[
            {
              head: "For what",
              names: true,
              look: "[overflow-wrap:anywhere]",
              cell: (r) => (
                <>
                  {r.purpose} <span className="text-muted">since {sayDay(r.at)}</span>
                </>
              ),
            },
            {
              head: "How much",
              number: true,
              look: "font-semibold",
              cell: (r) =>
                r.cutMm ? `${sayNumber(r.quantity)} × ${sayRun(r.cutMm, unit)}` : say(r.quantity, c.baseUnit),
            },
            {
              head: "Give free",
              silent: true,
              look: "w-8 px-0!",
              cell: (r) => (
                <IconButton
                  label={`Give ${r.purpose} free again`}
                  onClick={() => void releasing.send({ params: { id: c.id, reservation: r.id } })}
                >
                  <X size={15} />
                </IconButton>
              ),
            },
          ]}
        />
      )}
      {releasing.refusal && <Fault>{sentenceOf(releasing.refusal)}</Fault>}
      <form className="flex flex-wrap items-start gap-2 pt-2" noValidate onChange={clear} onSubmit={set}>
        <Field form={form} name="purpose" label="For what">
          {(field) => (
            <input className="field w-44" placeholder="such as May's replacements" maxLength={200} {...field} />
          )}
        </Field>
        <Field form={form} name="quantity" label={linear ? "Pieces" : c.baseUnit === "g" ? "Grams" : "How many"}>
          {(field) => (
            <NumberField
              className="field w-24"
              aria-label="How many to set aside"
              optional
              whole={c.baseUnit !== "g"}
              {...field}
            />
          )}
        </Field>
        {linear && (
          <Field form={form} name="cutMm" label="Each at least">
            {({ value, ...field }) => <LengthField className="field w-24" optional mm={value} {...field} />}
          </Field>
        )}
        <Button
          type="submit"
          className="mt-5 h-8!"
          disabled={busy || !(quantity! > 0) || purpose.trim() === "" || (linear && cutMm === null)}
        >
          Set aside
        </Button>
      </form>
      {refusal && !refusal.errors && <Fault>{refusal.detail}</Fault>}
    </section>
  );
}
