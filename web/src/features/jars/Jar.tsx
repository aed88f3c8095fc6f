import {
  BASE_UNITS, type Component, COMPONENT_KINDS, type ComponentDetail, ComponentInput, type ErrorBody, FINISHES, SHAPES, type StockEntry,
} from "@jar-count/core/contract";
import { readLength, sayLength } from "@jar-count/core/units";
import { zodResolver } from "@hookform/resolvers/zod";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { Link, useNavigate, useParams } from "react-router";
import { call, Refused } from "../../api/client.ts";
import { componentQuery, stockChanged } from "../../api/queries.ts";
import { useSettings } from "../../app/settings.ts";
import { Chip } from "../../ui/Bead.tsx";
import { Button, Fault, Labelled, Segmented } from "../../ui/controls.tsx";
import { useSayQuantity } from "../../ui/marks.tsx";
import { sayMinute } from "../../ui/month.ts";
import { Page, RefusalNotice, Waiting } from "../../ui/page.tsx";

const UNIT_WORDS: Record<Component["baseUnit"], string> = { piece: "pieces", mm: "length", g: "grams" };

/** One jar: what it is, how much is in it and why; or a new one. */
export function Jar() {
  const { id } = useParams() as { id: string };
  return id === "new" ? <NewJar key="new" /> : <KnownJar key={id} id={id} />;
}

function NewJar() {
  return (
    <Page title="A new component">
      <header className="px-6 pt-6 pb-2">
        <p className="text-sm"><Link to="/jars" className="link">Jars</Link></p>
        <h1>A new component</h1>
      </header>
      <ComponentForm id={null} version={0} component={null} />
    </Page>
  );
}

function KnownJar({ id }: { id: string }) {
  const found = useQuery(componentQuery(id));
  const say = useSayQuantity();
  if (!found.data) return <Waiting error={found.error} what="the jar" retry={() => void found.refetch()} />;
  const { component, movements } = found.data;
  return (
    <Page title={component.name}>
      <header className="flex flex-wrap items-center justify-between gap-4 px-6 pt-6 pb-4">
        <div className="min-w-0">
          <p className="text-sm"><Link to="/jars" className="link">Jars</Link> <span className="font-mono text-muted">{component.code}</span></p>
          <h1 className="flex items-center gap-3 break-words"><Chip of={component} size={28} /> <span className="min-w-0 [overflow-wrap:anywhere]">{component.name}</span></h1>
        </div>
        <p className="text-right">
          <strong className="text-3xl leading-9 font-semibold" data-testid="on-hand">{say(component.onHand, component.baseUnit)}</strong>
          <span className="ml-2 text-muted">on hand</span>
        </p>
      </header>
      <StockForm key={`stock-${component.id}`} component={component} />
      <section className="px-6 pt-8" aria-label="Movements">
        <h2 className="mb-2">What moved</h2>
        {movements.length === 0 ? (
          <p className="text-muted">Nothing yet. Write down what you received, or count what is in the jar.</p>
        ) : (
          <table className="row-table">
            <thead>
              <tr><th scope="col">When</th><th scope="col">What</th><th scope="col" className="w-full">Note</th><th scope="col" className="text-right!">moved</th><th scope="col" className="text-right!">in the jar</th></tr>
            </thead>
            <tbody>
              {movements.map((m) => (
                <tr key={m.id}>
                  <td className="whitespace-nowrap text-muted">{sayMinute(m.at)}</td>
                  <td>{m.kind}</td>
                  <td className="[overflow-wrap:anywhere]">{m.note}</td>
                  <td className="num">{m.quantity >= 0 ? "+" : ""}{say(m.quantity, component.baseUnit)}</td>
                  <td className="num font-semibold">{say(m.balance, component.baseUnit)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </section>
      <section className="px-6 pt-8" aria-label="What it is">
        <h2>What it is</h2>
      </section>
      <ComponentForm id={component.id} version={component.version} component={component} />
    </Page>
  );
}

/** Received so much, or counted so much: every change of stock goes through the ledger. */
function StockForm({ component }: { component: Component }) {
  const unit = useSettings((s) => s.unit);
  const [kind, setKind] = useState<StockEntry["kind"]>("received");
  const [text, setText] = useState("");
  const [note, setNote] = useState("");
  const [fault, setFault] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  // One key a form: sent twice, it happens once.
  const [requestKey, setRequestKey] = useState(() => crypto.randomUUID());

  const send = async (e: React.FormEvent) => {
    e.preventDefault();
    const n = component.baseUnit === "mm" ? readLength(text, unit) : text.trim() === "" ? null : Number(text.replace(/,(?=\d{3}(\D|$))/g, "").replace(",", "."));
    if (n === null || !Number.isFinite(n) || n < 0 || (kind === "received" && n === 0)) {
      return setFault(component.baseUnit === "mm" ? "Write a length, such as 30ft or 9m." : "Write a number of 0 or more.");
    }
    if (component.baseUnit === "piece" && !Number.isInteger(n)) return setFault("This is kept in pieces: write a whole number.");
    setFault(null);
    setBusy(true);
    try {
      await call<ComponentDetail>("POST", `/components/${component.id}/stock`, { requestKey, kind, quantity: Math.round(n * 1000) / 1000, note });
      setText("");
      setNote("");
      setRequestKey(crypto.randomUUID());
      await stockChanged();
    } catch (error) {
      setFault(error instanceof Refused ? (error.body.errors?.[0]?.detail ?? error.message) : (error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <form onSubmit={send} className="flex flex-wrap items-start gap-3 border-y border-rule bg-hush px-6 py-3">
      <Segmented label="What happened" value={kind} options={[{ value: "received", label: "Received" }, { value: "counted", label: "Counted" }]} onChange={setKind} />
      <span className="flex flex-col">
        <input className="field w-40" aria-label={kind === "received" ? "How much came" : "How much is in the jar"} placeholder={component.baseUnit === "mm" ? (unit === "in" ? "30ft" : "9m") : UNIT_WORDS[component.baseUnit]}
          aria-invalid={fault ? true : undefined} value={text} onChange={(e) => setText(e.target.value)} />
        {fault && <Fault>{fault}</Fault>}
      </span>
      <input className="field w-56" aria-label="Note" placeholder="Note (may stay empty)" maxLength={500} value={note} onChange={(e) => setNote(e.target.value)} />
      <Button type="submit" look="main" className="h-8!" disabled={busy}>{kind === "received" ? "Write down what came" : "Set to what was counted"}</Button>
    </form>
  );
}

interface FormValues {
  code: string; name: string; kind: string; shape: string; colour: string; finish: string; baseUnit: string;
  alongMm: string; acrossMm: string; holeMm: string; linkMm: string; perGram: string; pack: string; packQuantity: string; price: string;
}

const toForm = (c: Component | null): FormValues => ({
  code: c?.code ?? "", name: c?.name ?? "", kind: c?.kind ?? "bead", shape: c?.shape ?? "", colour: c?.colour ?? "#8a8f94", finish: c?.finish ?? "opaque",
  baseUnit: c?.baseUnit ?? "piece", alongMm: show(c?.alongMm), acrossMm: show(c?.acrossMm), holeMm: show(c?.holeMm), linkMm: show(c?.linkMm),
  perGram: show(c?.perGram), pack: c?.offer?.pack ?? "",
  packQuantity: c?.offer ? (c.baseUnit === "mm" ? `${sayLength(c.offer.quantity, "mm", 1)} mm` : show(c.offer.quantity)) : "", price: c?.offer?.price ?? "",
});
const show = (n: number | null | undefined) => (n == null ? "" : String(n));

/** What a form's texts come to, for the contract to check; an unreadable number becomes NaN, which it refuses. */
function fromForm(f: FormValues): unknown {
  const number = (text: string) => (text.trim() === "" ? null : Number(text.replace(",", ".")));
  const length = (text: string) => (text.trim() === "" ? null : (readLength(text, "mm") ?? NaN));
  const offered = [f.pack, f.packQuantity, f.price].some((t) => t.trim() !== "");
  return {
    code: f.code, name: f.name, kind: f.kind, shape: f.shape || null, colour: f.colour, finish: f.finish, baseUnit: f.baseUnit,
    alongMm: length(f.alongMm), acrossMm: length(f.acrossMm), holeMm: length(f.holeMm), linkMm: length(f.linkMm), perGram: number(f.perGram),
    offer: offered ? { pack: f.pack, quantity: (f.baseUnit === "mm" ? length(f.packQuantity) : number(f.packQuantity)) ?? NaN, price: f.price.trim().replace(",", ".") } : null,
  };
}

function ComponentForm({ id, version, component }: { id: string | null; version: number; component: Component | null }) {
  const navigate = useNavigate();
  const [refusal, setRefusal] = useState<ErrorBody | null>(null);
  const [away, setAway] = useState<string | null>(null);
  const [saved, setSaved] = useState(false);
  const [newId] = useState(() => id ?? crypto.randomUUID());
  const { register, handleSubmit, formState, watch, reset, setError } = useForm<FormValues>({
    defaultValues: toForm(component),
    // The contract judges what the texts come to; its paths are brought back to the form's fields.
    resolver: async (values, context, options) => {
      const checked = await zodResolver(ComponentInput)(fromForm(values) as never, context as never, options as never);
      const { offer, ...rest } = checked.errors as Record<string, { message?: string }> & { offer?: Record<string, { message?: string }> };
      const errors = { ...rest, ...(offer ? { pack: offer.pack, packQuantity: offer.quantity, price: offer.price } : {}) };
      const kept = Object.fromEntries(Object.entries(errors).filter(([, e]) => e).map(([k, e]) => [k, { type: "contract", message: plain(e!.message) }]));
      return Object.keys(kept).length > 0 ? { values: {}, errors: kept } : { values, errors: {} };
    },
  });
  const { errors, isSubmitting, isDirty } = formState;
  const values = watch();
  const [kind, baseUnit] = [values.kind, values.baseUnit];
  const stringing = kind === "stringing";

  const save = handleSubmit(async (form) => {
    setRefusal(null);
    setAway(null);
    try {
      const answer = await call<ComponentDetail>("PUT", `/components/${newId}`, { version, component: fromForm(form) });
      await stockChanged();
      if (id === null) await navigate(`/jars/${newId}`);
      else {
        reset(toForm(answer.component));
        setSaved(true);
      }
    } catch (error) {
      if (error instanceof Refused) {
        for (const e of error.body.errors ?? []) if (e.pointer === "/component/code") setError("code", { message: e.detail });
        setRefusal(error.body);
      } else setAway((error as Error).message);
    }
  });
  const field = (name: keyof FormValues, label: string, width: string, hint?: string) => (
    <Labelled label={label} fault={errors[name]?.message} hint={hint}>
      <input className={`field ${width}`} autoComplete="off" aria-invalid={errors[name] ? true : undefined} {...register(name)} />
    </Labelled>
  );
  const select = (name: keyof FormValues, label: string, options: readonly string[], blank?: string) => (
    <Labelled label={label} fault={errors[name]?.message}>
      <select className="field" {...register(name)}>
        {blank !== undefined && <option value="">{blank}</option>}
        {options.map((o) => <option key={o} value={o}>{name === "baseUnit" ? UNIT_WORDS[o as Component["baseUnit"]] : o}</option>)}
      </select>
    </Labelled>
  );
  return (
    <form onSubmit={save} noValidate onChange={() => setSaved(false)}>
      {refusal && <RefusalNotice refusal={refusal} />}
      {refusal?.status === 409 && (
        <p className="mx-6 mt-2">What you typed is still here. <button type="button" className="link font-medium" onClick={() => void stockChanged().then(() => setRefusal(null))}>Fetch what is there now</button>, then save again to keep yours.</p>
      )}
      {away && <p role="alert" className="mx-6 mt-4 font-medium text-short">{away}</p>}
      <div className="flex flex-wrap items-start gap-x-4 gap-y-4 px-6 pt-4">
        {field("name", "Name", "w-80 max-w-full")}
        {field("code", "Code", "w-36")}
        {select("kind", "Kind", COMPONENT_KINDS)}
        {!stringing && select("shape", "Shape", SHAPES, "by its name")}
        {select("finish", "Finish", FINISHES)}
        <Labelled label="Colour"><input type="color" className="field w-14 p-1" {...register("colour")} /></Labelled>
      </div>
      <div className="flex flex-wrap items-start gap-x-4 gap-y-4 px-6 pt-4">
        {component?.moved ? (
          <Labelled label="Kept in" hint="fixed, since stock has moved"><input className="field w-28" value={UNIT_WORDS[component.baseUnit]} readOnly /></Labelled>
        ) : (
          select("baseUnit", "Kept in", BASE_UNITS)
        )}
        {!stringing && field("alongMm", "Along the thread, mm", "w-32")}
        {!stringing && field("acrossMm", "Across, mm", "w-24")}
        {!stringing && field("holeMm", "Hole, mm", "w-24")}
        {stringing && field("linkMm", "Chain: a link, mm", "w-32", "empty: no chain")}
        {baseUnit === "g" && field("perGram", "Pieces a gram", "w-28")}
      </div>
      <div className="flex flex-wrap items-start gap-x-4 gap-y-4 px-6 pt-4">
        {field("pack", "A pack is called", "w-44", "such as strand of 50")}
        {field("packQuantity", baseUnit === "mm" ? "A pack holds (30ft, 25m)" : baseUnit === "g" ? "A pack holds, g" : "A pack holds, pieces", "w-40")}
        {field("price", "A pack costs", "w-28")}
        <span className="flex items-center gap-3 self-start pt-5">
          <Button type="submit" look="main" className="h-8!" disabled={isSubmitting || (id !== null && !isDirty)}>{id === null ? "Add the component" : "Save the component"}</Button>
          {saved && <span role="status" className="text-muted">Saved.</span>}
        </span>
      </div>
    </form>
  );
}

/** The contract's own words for a number that could not be read. */
const plain = (message: string | undefined) => (!message || /invalid input/i.test(message) ? "Write a number, or leave it empty." : message);
