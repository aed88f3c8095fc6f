import { compile } from "@jar-count/core/weigh";
import { useState } from "react";
import { Button, Labelled } from "../../ui/controls.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { Triangle } from "../../ui/marks.tsx";
import { hasSerial, useScale, useScaleSettings } from "./useScale.ts";

/** What the scale says now, and which scale it is. */
export function ScalePanel() {
  const { source, reading, fault, connectSimulated, connectSerial, disconnect } = useScale();
  return (
    <section aria-label="Scale">
      <h2>Scale</h2>
      {source === "none" ? (
        <>
          <p className="pt-1 pb-2 text-muted">No scale is connected. Weights can be typed.</p>
          <div className="flex flex-col items-start gap-2">
            <Button onClick={connectSimulated}>Use the simulated scale</Button>
            {hasSerial() ? (
              <Button onClick={() => void connectSerial()}>Connect a scale</Button>
            ) : (
              <p className="text-xs text-muted">This browser can't reach a scale at a serial port.</p>
            )}
          </div>
        </>
      ) : (
        <>
          <p className="my-2 flex items-baseline gap-2">
            <strong
              className="text-3xl leading-9 font-semibold"
              data-testid="scale"
              data-stable={reading?.stable ?? false}
            >
              {!reading ? "– – –" : reading.overload ? "too heavy" : `${reading.grams.toFixed(2)} g`}
            </strong>
          </p>
          <p role="status" className={reading?.stable ? "text-muted" : "font-medium"}>
            {!reading
              ? "waiting for the first line"
              : reading.overload
                ? "Take something off."
                : reading.stable
                  ? "at rest"
                  : "moving …"}
          </p>
          <Button look="quiet" className="-ml-3" onClick={() => void disconnect()}>
            Disconnect {source === "simulated" ? "the simulated scale" : "it"}
          </Button>
        </>
      )}
      {fault && (
        <p role="alert" className="pt-2 font-medium text-short">
          <Triangle /> {fault}
        </p>
      )}
      {source === "simulated" && <Simulated />}
      {source !== "simulated" && hasSerial() && <SerialSettings />}
    </section>
  );
}

function Simulated() {
  const { put, zero, pullCable, make, remake } = useScale();
  const [grams, setGrams] = useState<number | null>(null);
  return (
    <div className="mt-2 rounded-md border border-rule p-3">
      <h3 className="mb-2 text-xs text-muted">On the simulated scale</h3>
      <form
        className="flex items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          put(grams ?? 0);
        }}
      >
        <Labelled label="Lies on it, g">
          <NumberField
            className="field w-24"
            aria-label="Lies on the simulated scale, grams"
            optional
            value={grams}
            onChange={setGrams}
          />
        </Labelled>
        <Button type="submit" className="h-8!">
          Put on
        </Button>
      </form>
      <div className="flex flex-wrap gap-2 pt-2">
        <Button className="h-8!" onClick={zero}>
          Zero
        </Button>
        <Button className="h-8!" onClick={() => put(0)}>
          Clear
        </Button>
        <Button className="h-8!" onClick={pullCable}>
          Pull the cable
        </Button>
      </div>
      <details className="pt-2">
        <summary className="cursor-pointer text-xs text-muted">How it is made</summary>
        <div className="grid grid-cols-2 gap-2 pt-2">
          <Labelled label="Readability, g">
            <NumberField
              className="field w-20"
              min={0.0001}
              value={make.readability}
              onChange={(n) => remake({ readability: n! })}
            />
          </Labelled>
          <Labelled label="Weighs up to, g">
            <NumberField
              className="field w-20"
              min={1}
              value={make.capacity}
              onChange={(n) => remake({ capacity: n! })}
            />
          </Labelled>
          <Labelled label="Drifts, g an hour">
            <NumberField
              className="field w-20"
              min={-1000}
              value={make.drift}
              onChange={(n) => remake({ drift: n! })}
            />
          </Labelled>
          <Labelled label="Settles in, ms">
            <NumberField className="field w-20" value={make.settleMs} onChange={(n) => remake({ settleMs: n! })} />
          </Labelled>
        </div>
      </details>
    </div>
  );
}

function SerialSettings() {
  const { baudRate, pattern, unit, readability, set } = useScaleSettings();
  return (
    <details className="pt-3">
      <summary className="cursor-pointer text-xs text-muted">How the scale is read</summary>
      <div className="flex flex-col gap-2 pt-2">
        <Labelled label="Baud rate">
          <NumberField
            className="field w-24"
            whole
            min={300}
            value={baudRate}
            onChange={(n) => set({ baudRate: n! })}
          />
        </Labelled>
        <Labelled label="Smallest step shown, g">
          <NumberField
            className="field w-24"
            min={0.0001}
            value={readability}
            onChange={(n) => set({ readability: n! })}
          />
        </Labelled>
        <Labelled label="Unit where none is sent">
          <select className="field w-24" value={unit} onChange={(e) => set({ unit: e.target.value })}>
            {["g", "oz", "ct", "kg"].map((u) => (
              <option key={u}>{u}</option>
            ))}
          </select>
        </Labelled>
        <Labelled
          label="Pattern of a line (empty: plain weighing lines)"
          hint="a regular expression with (?<value>…), (?<unit>…), (?<unstable>…)"
          fault={pattern !== "" && !compile(pattern) ? "This is no regular expression; plain lines are read." : null}
        >
          <input
            className="field w-full font-mono"
            value={pattern}
            onChange={(e) => set({ pattern: e.target.value })}
          />
        </Labelled>
      </div>
    </details>
  );
}
