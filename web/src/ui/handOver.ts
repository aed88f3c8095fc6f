/** Hands a text to the person as a file of that name. */
export const download = (name: string, text: string, type: string) => handOver(name, new Blob([text], { type }));

export function handOver(name: string, file: Blob) {
  const url = URL.createObjectURL(file);
  const link = document.createElement("a");
  link.href = url;
  link.download = name.replace(/[\\/:*?"<>|]/g, "-");
  link.click();
  URL.revokeObjectURL(url);
}

/** What a design file is called. */
export const designFileName = (name: string) => `${name.slice(0, 80)}.jarcount.json`;
