import { readFileSync } from "node:fs";
import { createRequire } from "node:module";

/** What a QR code's modules say, read by another library. */
export async function readCode(modules: readonly (readonly boolean[])[]): Promise<string | undefined> {
  const { readBarcodes, prepareZXingModule } = await import("zxing-wasm/reader");
  prepareZXingModule({
    overrides: {
      wasmBinary: readFileSync(createRequire(import.meta.url).resolve("zxing-wasm/reader/zxing_reader.wasm"))
        .buffer as ArrayBuffer,
    },
  });
  // The modules that are drawn on the sheet, as a picture with a quiet zone of 4 around (ISO/IEC 18004, from memory).
  const [scale, quiet] = [4, 4];
  const side = (modules.length + 2 * quiet) * scale;
  const data = new Uint8ClampedArray(side * side * 4).fill(255);
  modules.forEach((row, j) =>
    row.forEach((dark, i) => {
      if (!dark) return;
      for (let y = 0; y < scale; y++)
        for (let x = 0; x < scale; x++) {
          const at = (((j + quiet) * scale + y) * side + (i + quiet) * scale + x) * 4;
          data.fill(0, at, at + 3);
        }
    }),
  );
  const picture = { data, width: side, height: side } as Parameters<typeof readBarcodes>[0];
  const [found] = await readBarcodes(picture, { formats: ["QRCode"] });
  return found?.text;
}
