import { Design } from "@jar-count/core/contract";

const MAX_BYTES = 8_000_000;

/** Reads a design file, or says in a list what keeps it from being one. */
export async function readDesignFile(file: File): Promise<{ design: Design } | { faults: string[] }> {
  if (file.size > MAX_BYTES)
    return { faults: ["The file is over 8 MB; a design is far smaller. Choose a *.jarcount.json file."] };
  const text = await file.text();
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    return {
      faults: [
        `This is not JSON, or it was cut short: ${(error as Error).message}. Save the design again where it ` +
          "came from.",
      ],
    };
  }
  const found = Design.safeParse(json);
  if (found.success) return { design: found.data };
  return {
    faults: found.error.issues
      .slice(0, 20)
      .map((issue) => `${issue.path.length > 0 ? `${issue.path.join(" › ")}: ` : ""}${issue.message}`),
  };
}
