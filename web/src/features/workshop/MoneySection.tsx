import {
  type Channel,
  COST_BASES,
  MoneyInput,
  MoneyTerms,
  TRADE_RATES,
  WORK_STEPS,
  type WorkRate,
} from "@jar-count/core/contract";
import { mergeRecords } from "@jar-count/core/merge";
import { useQuery } from "@tanstack/react-query";
import { Plus, X } from "lucide-react";
import { useState } from "react";
import { makeStale, measuredQuery, moneyQuery, postageQuery, queryClient } from "../../api/queries.ts";
import { moneyInputOf as inputOf } from "../../api/moneyInput.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, Fault, IconButton, Labelled, Segmented } from "../../ui/controls.tsx";
import { BASIS_WORDS } from "../../ui/costWords.ts";
import { DataTable, TableHead } from "../../ui/DataTable.tsx";
import { NumberField, TextField } from "../../ui/fields.tsx";
import { Diamond, sayNumber } from "../../ui/marks.tsx";
import { sayDay } from "../../ui/month.ts";
import { MoneyField } from "../../ui/MoneyField.tsx";

const STEP: Record<WorkRate["step"], string> = {
  count: "A piece counted out",
  weigh: "A weigh-out",
  cut: "A cut",
  prepare: "An end of cord or ribbon, burnt or glued",
  bag: "A bag",
  label: "A label",
  "set-up": "Setting up, once a run",
};

/** What costs and prices go by: work, channels, the carrier and the shop. */
export function MoneySection() {
  const found = useQuery(moneyQuery).data;
  if (!found) return null;
  return <MoneyForm found={found} />;
}

function MoneyForm({ found }: { found: MoneyTerms }) {
  /** What is filled in, and what it was made of. */
  const [edited, setEdited] = useState<{ base: MoneyTerms; money: MoneyInput } | null>(null);
  const money = edited?.money ?? inputOf(found);
  const { send, busy, refusal, clear } = useSend(
    "saveMoney",
    async (saved) => {
      queryClient.setQueryData(moneyQuery.queryKey, saved);
      setEdited(null);
      await makeStale("money", "boxes");
    },
    (current, requestKey) => {
      // Somebody saved first: what does not clash goes in beside it. The same place changed by both is for a person.
      const { version, ...theirs } = MoneyTerms.parse(current);
      const base = inputOf(edited!.base);
      const { merged, clashes } = mergeRecords(base, edited!.money, inputOf({ version, ...theirs }));
      return clashes.length === 0 ? { body: { requestKey, version, money: merged } } : null;
    },
  );
  const put = (change: Partial<MoneyInput>) =>
    setEdited({ base: edited?.base ?? found, money: { ...money, ...change } });
  const checked = MoneyInput.safeParse(money);
  const fault = checked.success ? null : checked.error.issues[0]!.message;
  const gone = found.channels.filter((c) => !money.channels.some((x) => x.id === c.id));
  const leave = async () => {
    setEdited(null);
    clear();
    await queryClient.invalidateQueries({ queryKey: moneyQuery.queryKey });
  };
  const save = () =>
    void send((requestKey) => ({ body: { requestKey, version: edited!.base.version, money: edited!.money } }));
  return (
    <section className="px-6" aria-label="Money">
      <p className="mb-3 max-w-prose text-muted">
        What a box costs beside its parts, and where it is sold. Every box goes by this until its bill is frozen.
      </p>
      <div className="mb-5 flex flex-wrap items-start gap-4">
        <Labelled label="Material at">
          <span>
            <Segmented
              label="Material at"
              value={money.basis}
              options={COST_BASES.map((value) => ({ value, label: BASIS_WORDS[value] }))}
              onChange={(basis) => put({ basis })}
            />
          </span>
        </Labelled>
        <Labelled label="An hour of work">
          <MoneyField
            aria-label="An hour of work"
            className="field w-24 text-right"
            value={money.wage}
            onChange={(wage) => put({ wage: wage! })}
          />
        </Labelled>
        <Labelled label="Overhead a box">
          <MoneyField
            aria-label="Overhead a box"
            className="field w-24 text-right"
            value={money.overhead}
            onChange={(overhead) => put({ overhead: overhead! })}
          />
        </Labelled>
        <Labelled label="A price ends in" hint="empty: in anything">
          <TextField
            aria-label="A price ends in"
            className="field w-20"
            placeholder=".50"
            value={money.ending}
            onChange={(ending) => put({ ending: ending.trim() })}
          />
        </Labelled>
        <Labelled label="Parts sell singly at … × cost" hint="empty: not said">
          <NumberField
            aria-label="Parts sell singly at so many times their cost"
            className="field w-20 text-right"
            optional
            min={1}
            max={100}
            value={money.retailFactor ?? null}
            onChange={(retailFactor) => put({ retailFactor })}
          />
        </Labelled>
        <Labelled label="Boxes with a claim, %">
          <NumberField
            aria-label="Boxes with a claim, %"
            className="field w-20 text-right"
            factor={100}
            max={0.99}
            value={money.claims}
            onChange={(claims) => put({ claims: claims! })}
          />
        </Labelled>
        <Labelled label="Leftovers taken apart, %">
          <NumberField
            aria-label="Leftovers taken apart, %"
            className="field w-20 text-right"
            factor={100}
            max={0.99}
            value={money.takenApart}
            onChange={(takenApart) => put({ takenApart: takenApart! })}
          />
        </Labelled>
        <Labelled label="The others sell at, %">
          <NumberField
            aria-label="The others sell at, %"
            className="field w-20 text-right"
            factor={100}
            max={0.99}
            value={money.sellsAt}
            onChange={(sellsAt) => put({ sellsAt: sellsAt! })}
          />
        </Labelled>
      </div>
      <Rates rates={money.rates} onChange={(rates) => put({ rates })} />
      <Channels channels={money.channels} onChange={(channels) => put({ channels })} />
      <Posting money={money} onChange={put} />
      <div className="mt-4 flex flex-wrap items-center gap-2">
        <Button look="main" disabled={!edited || busy || fault !== null} onClick={save}>
          Save the money
        </Button>
        {edited && (
          <Button onClick={() => void leave()}>{refusal ? "See what is there now" : "Leave it as it was"}</Button>
        )}
        {gone.length > 0 && (
          <span className="text-sm font-medium">
            <Diamond className="text-low" /> The prices of boxes at {gone.map((c) => c.name).join(" and ")} go with it.
          </span>
        )}
        {fault && <Fault>{fault}</Fault>}
        {refusal && <Fault>{sentenceOf(refusal)}</Fault>}
      </div>
    </section>
  );
}

/** How long work takes: as the trade does, as typed, or as the bench's own times say. */
function Rates({ rates, onChange }: { rates: readonly WorkRate[]; onChange: (rates: WorkRate[]) => void }) {
  const measured = useQuery(measuredQuery).data;
  const rateOf = (step: WorkRate["step"]) =>
    rates.find((r) => r.step === step) ?? TRADE_RATES.find((r) => r.step === step)!;
  const all = WORK_STEPS.map(rateOf);
  const put = (next: WorkRate) => onChange(all.map((r) => (r.step === next.step ? next : r)));
  return (
    <>
      <h3 className="mb-1 font-semibold">How long work takes</h3>
      <DataTable
        className="mb-2 max-w-2xl"
        rows={all}
        rowKey={(r) => r.step}
        columns={[
          { head: "Step", names: true, wide: true, cell: (r) => STEP[r.step] },
          {
            head: "seconds",
            number: true,
            cell: (r) => (
              <NumberField
                aria-label={`Seconds: ${STEP[r.step]}`}
                className="field w-20 text-right"
                max={360_000}
                value={r.seconds}
                onChange={(seconds) => put({ step: r.step, seconds: seconds!, spread: 0, n: 0, from: "default" })}
              />
            ),
          },
          {
            head: "from",
            look: "text-muted whitespace-nowrap",
            cell: (r) =>
              r.from === "measured" ? `measured, ${sayNumber(r.n)} boxes, ± ${sayNumber(r.spread, 2)} s` : "as said",
          },
        ]}
      />
      <div className="mb-6 flex flex-wrap items-center gap-3">
        {measured && measured.boxes > 0 && (
          <>
            <Button onClick={() => onChange(all.map((r) => measured.rates.find((m) => m.step === r.step) ?? r))}>
              Take the bench’s times over
            </Button>
            <span className="text-sm text-muted">
              {sayNumber(measured.boxes)} boxes took {sayNumber(measured.seconds / 60)} min each at the bench; by these
              rates it would be {sayNumber(measured.planned / 60)}.
            </span>
          </>
        )}
        <Button onClick={() => onChange(TRADE_RATES.map((r) => ({ ...r })))}>As the trade usually does</Button>
      </div>
    </>
  );
}

function Channels({ channels, onChange }: { channels: readonly Channel[]; onChange: (list: Channel[]) => void }) {
  const put = (id: string, change: Partial<Channel>) =>
    onChange(channels.map((c) => (c.id === id ? { ...c, ...change } : c)));
  const add = () =>
    onChange([
      ...channels,
      {
        id: crypto.randomUUID(),
        name: channels.length === 0 ? "Own shop" : `Channel ${channels.length + 1}`,
        feeRate: 0,
        feeFixed: "0",
        taxRate: 0,
        discounts: [],
        gift: null,
      },
    ]);
  return (
    <>
      <h3 className="mb-1 font-semibold">Where boxes are sold</h3>
      {channels.length > 0 && (
        <div>
          <table className="row-table stacks-wide">
            <TableHead
              columns={[
                { head: "Channel", wide: true },
                { head: "fee, %", number: true },
                { head: "and a sum", number: true },
                { head: "tax in it, %", number: true },
                { head: "Less, from an order of" },
                { head: "A gift, from an order of" },
                { head: "Take out", silent: true },
              ]}
            />
            <tbody>
              {channels.map((c) => (
                <ChannelRow
                  key={c.id}
                  channel={c}
                  onChange={(change) => put(c.id, change)}
                  onDrop={() => onChange(channels.filter((x) => x !== c))}
                />
              ))}
            </tbody>
          </table>
        </div>
      )}
      <Button className="mt-2 mb-6" onClick={add}>
        <Plus size={16} aria-hidden /> Add a channel
      </Button>
    </>
  );
}

interface ChannelRowProps {
  channel: Channel;
  onChange: (change: Partial<Channel>) => void;
  onDrop: () => void;
}

function ChannelRow({ channel, onChange, onDrop }: ChannelRowProps) {
  const { name, feeRate, feeFixed, taxRate, discounts, gift } = channel;
  const rate = (label: string, value: number, max: number, put: (n: number) => void) => (
    <NumberField
      aria-label={`${label} of ${name}`}
      className="field w-16 text-right"
      factor={100}
      max={max}
      places={2}
      value={value}
      onChange={(n) => put(n!)}
    />
  );
  return (
    <tr data-testid="channel" className="align-top">
      <td className="py-1.5">
        <TextField
          aria-label="Name of the channel"
          className="field w-44"
          value={name}
          check={(text) => (text.trim() === "" ? "Give it a name." : null)}
          onChange={(next) => onChange({ name: next })}
        />
      </td>
      <td data-head="fee, %" className="py-1.5">
        {rate("Fee, %", feeRate, 0.99, (n) => onChange({ feeRate: n }))}
      </td>
      <td data-head="and a sum" className="py-1.5">
        <MoneyField
          aria-label={`Fixed fee of ${name}`}
          className="field w-16 text-right"
          value={feeFixed}
          onChange={(next) => onChange({ feeFixed: next! })}
        />
      </td>
      <td data-head="tax in it, %" className="py-1.5">
        {rate("Tax, %", taxRate, 100, (n) => onChange({ taxRate: n }))}
      </td>
      <td data-head="Less, from an order of" className="py-1.5">
        <ul className="flex flex-col gap-1">
          {discounts.map((d, i) => (
            <li key={i} className="flex items-center gap-1">
              <MoneyField
                aria-label={`Discount ${i + 1} of ${name} from`}
                className="field w-16 text-right"
                value={d.from}
                onChange={(from) => onChange({ discounts: discounts.with(i, { ...d, from: from! }) })}
              />
              {rate(`Discount ${i + 1}, %`, d.rate, 0.99, (n) =>
                onChange({ discounts: discounts.with(i, { ...d, rate: n }) }),
              )}
              %
              <IconButton
                label={`Take discount ${i + 1} of ${name} out`}
                onClick={() => onChange({ discounts: discounts.toSpliced(i, 1) })}
              >
                <X size={14} />
              </IconButton>
            </li>
          ))}
        </ul>
        <Button
          look="quiet"
          className="h-8! px-1!"
          onClick={() => {
            const last = Number(discounts.at(-1)?.from ?? 20);
            onChange({ discounts: [...discounts, { from: String(last + 20), rate: 0.05 }] });
          }}
        >
          <Plus size={14} aria-hidden /> a step<span className="sr-only"> of discount at {name}</span>
        </Button>
      </td>
      <td data-head="A gift, from an order of" className="py-1.5">
        {gift == null ? (
          <Button
            look="quiet"
            className="h-8! px-1!"
            onClick={() => onChange({ gift: { from: "60", name: "mini box", cost: "1.50", massG: 0 } })}
          >
            <Plus size={14} aria-hidden /> a gift<span className="sr-only"> at {name}</span>
          </Button>
        ) : (
          <span className="flex flex-col gap-1">
            <span className="flex items-center gap-1">
              <MoneyField
                aria-label={`Gift of ${name} from`}
                className="field w-16 text-right"
                value={gift.from}
                onChange={(from) => onChange({ gift: { ...gift, from: from! } })}
              />
              <TextField
                aria-label={`Gift of ${name}`}
                className="field w-36"
                value={gift.name}
                check={(text) => (text.trim() === "" ? "Give it a name." : null)}
                onChange={(next) => onChange({ gift: { ...gift, name: next } })}
              />
              <IconButton label={`Take the gift of ${name} out`} onClick={() => onChange({ gift: null })}>
                <X size={14} />
              </IconButton>
            </span>
            <span className="flex items-center gap-1 text-xs text-muted">
              costs
              <MoneyField
                aria-label={`The gift of ${name} costs`}
                className="field w-16 text-right"
                value={gift.cost}
                onChange={(cost) => onChange({ gift: { ...gift, cost: cost! } })}
              />
              weighs
              <NumberField
                aria-label={`The gift of ${name} weighs, g`}
                className="field w-16 text-right"
                max={100_000}
                value={gift.massG}
                onChange={(massG) => onChange({ gift: { ...gift, massG: massG! } })}
              />
              g
            </span>
          </span>
        )}
      </td>
      <td className="px-0! py-1.5">
        <IconButton label={`Take ${name} out`} onClick={onDrop}>
          <X size={15} />
        </IconButton>
      </td>
    </tr>
  );
}

/** Where parcels go and who carries them; where the shop is. Both are simulated until an address is named. */
function Posting({ money, onChange }: { money: MoneyInput; onChange: (change: Partial<MoneyInput>) => void }) {
  const postage = useQuery(postageQuery).data;
  const zones = [...new Set([...(postage?.bands.map((b) => b.zone) ?? []), ...(money.zone ? [money.zone] : [])])];
  const services = [
    ...new Set([
      ...(postage?.bands.filter((b) => b.zone === money.zone).map((b) => b.service) ?? []),
      ...(money.service ? [money.service] : []),
    ]),
  ];
  return (
    <>
      <h3 className="mb-1 font-semibold">The carrier and the shop</h3>
      <div className="flex flex-wrap items-start gap-4">
        <Labelled label="Parcels go" hint="nowhere: posting is not in a box’s cost">
          <select className="field w-36" value={money.zone} onChange={(e) => onChange({ zone: e.target.value })}>
            <option value="">nowhere yet</option>
            {zones.map((z) => (
              <option key={z} value={z}>
                {z}
              </option>
            ))}
          </select>
        </Labelled>
        <Labelled label="As">
          <select className="field w-44" value={money.service} onChange={(e) => onChange({ service: e.target.value })}>
            <option value="">the cheapest that takes it</option>
            {services.map((s) => (
              <option key={s} value={s}>
                {s}
              </option>
            ))}
          </select>
        </Labelled>
        {(["carrier", "shop"] as const).map((which) => (
          <Labelled
            key={which}
            label={which === "carrier" ? "Address of the carrier" : "Address of the shop"}
            hint={money[which] === "" ? "empty: a simulated one" : undefined}
          >
            <TextField
              aria-label={which === "carrier" ? "Address of the carrier" : "Address of the shop"}
              className="field w-64"
              placeholder="http://192.168.1.20:4321"
              value={money[which]}
              onChange={(text) => onChange({ [which]: text.trim() })}
            />
          </Labelled>
        ))}
      </div>
      {postage && (
        <p className="pt-2 text-sm text-muted">
          {postage.fault ? (
            <>
              <Diamond className="text-low" /> {postage.fault}{" "}
              {postage.asOf && `Its rates of ${sayDay(postage.asOf)} are used.`}
            </>
          ) : (
            `The carrier names ${sayNumber(postage.bands.length)} rates.`
          )}
        </p>
      )}
    </>
  );
}
