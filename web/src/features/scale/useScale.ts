import { type Reading, readWeighing, type ScaleMake, seeded, SimulatedScale, USUAL_SCALE } from "@jar-count/core/weigh";
import { create } from "zustand";
import { persist } from "zustand/middleware";

/** What the web serial API offers that is used here; the types of the platform don't have it yet. */
interface Port {
  open: (options: { baudRate: number }) => Promise<void>;
  close: () => Promise<void>;
  readable: ReadableStream<Uint8Array> | null;
}
const serial = () => (navigator as unknown as { serial?: { requestPort: () => Promise<Port> } }).serial;
export const hasSerial = () => serial() !== undefined;

type Source = "none" | "simulated" | "serial";

interface ScaleState {
  source: Source;
  reading: Reading | null;
  fault: string | null;
  connectSimulated: () => void;
  connectSerial: () => Promise<void>;
  disconnect: () => Promise<void>;
  /** Only of the simulated scale: what lies on it, its zero, its cable, how it is made. */
  put: (grams: number) => void;
  zero: () => void;
  pullCable: () => void;
  remake: (make: Partial<ScaleMake>) => void;
  make: ScaleMake;
}

/** How a real scale is read, and how finely: kept in this browser. */
export const useScaleSettings = create<{
  baudRate: number;
  pattern: string;
  unit: string;
  readability: number;
  set: (s: Partial<{ baudRate: number; pattern: string; unit: string; readability: number }>) => void;
}>()(
  persist((set) => ({ baudRate: 9600, pattern: "", unit: "g", readability: 0.01, set: (s) => set(s) }), {
    name: "jar-count/scale",
  }),
);

const EVERY_MS = 120;
let timer: ReturnType<typeof setInterval> | null = null;
let simulated: SimulatedScale | null = null;
let port: Port | null = null;
let reader: ReadableStreamDefaultReader<string> | null = null;

/** Lets go of whichever scale is connected; the simulated one at once, a real one when its port is closed. */
async function letGo() {
  if (timer) clearInterval(timer);
  timer = null;
  simulated = null;
  const [held, open] = [reader, port];
  reader = port = null;
  await held?.cancel().catch(() => {});
  await open?.close().catch(() => {});
}

/** The scale beside the bench: one interface, two sources, one that is there and one that is simulated. */
export const useScale = create<ScaleState>((set, get) => ({
  source: "none",
  reading: null,
  fault: null,
  make: USUAL_SCALE,
  connectSimulated: () => {
    void letGo();
    simulated = new SimulatedScale(get().make, seeded(Math.floor(performance.now() * 1000)));
    timer = setInterval(() => simulated && set({ reading: simulated.read(performance.now()) }), EVERY_MS);
    set({ source: "simulated", fault: null, reading: simulated.read(performance.now()) });
  },
  connectSerial: async () => {
    await letGo();
    const { baudRate, pattern, unit } = useScaleSettings.getState();
    try {
      port = await serial()!.requestPort();
      await port.open({ baudRate });
      set({ source: "serial", fault: null, reading: null });
      reader = port
        .readable!.pipeThrough(new TextDecoderStream() as unknown as ReadableWritablePair<string, Uint8Array>)
        .getReader();
      let text = "";
      for (;;) {
        const { value, done } = await reader.read();
        if (done) break;
        const lines = (text + value).split(/\r\n|\r|\n/);
        text = lines.pop()!.slice(-500);
        for (const line of lines) {
          const reading = readWeighing(line, { pattern: pattern || null, unit });
          if (reading) set({ reading });
        }
      }
    } catch (error) {
      const none = (error as Error).name === "NotFoundError";
      set({
        source: "none",
        reading: null,
        fault: none
          ? null
          : "The scale can't be read any more. Look at its cable, then connect it again; nothing that was " +
            "weighed is lost.",
      });
    }
  },
  disconnect: async () => {
    set({ source: "none", reading: null });
    await letGo();
  },
  put: (grams) => simulated?.put(grams, performance.now()),
  zero: () => simulated?.tare(performance.now()),
  pullCable: () => {
    void letGo();
    set({
      source: "none",
      reading: null,
      fault:
        "The scale is gone: its cable was pulled. Put it back and connect again; nothing that was weighed is lost.",
    });
  },
  remake: (change) => {
    const make = { ...get().make, ...change };
    if (simulated) simulated.make = make;
    set({ make });
  },
}));

/** The smallest step that the connected scale shows, grams. */
export function useReadability() {
  const real = useScaleSettings((s) => s.readability);
  const source = useScale((s) => s.source);
  const made = useScale((s) => s.make.readability);
  return source === "simulated" ? made : real;
}
