/**
 * Many readers at once, each reading some paths a few times; run as a process of its own by person.mjs. What comes is
 * taken as it comes, packed: fifty readers unpack it on fifty machines, not on this one.
 */
import { Agent, get } from "node:http";

const [url, many, rounds] = process.argv.slice(2);
const agent = new Agent({ keepAlive: true });
process.once("message", async (paths) => {
  const times = [];
  let errors = 0;
  let bytes = 0;
  const read = async (path) => {
    const began = performance.now();
    const status = await new Promise((resolve, reject) =>
      get(url + path, { agent, headers: { "accept-encoding": "gzip" } }, (answer) => {
        let came = 0;
        answer
          .on("data", (part) => (came += part.length))
          .once("end", () => {
            bytes = came;
            resolve(answer.statusCode);
          });
      }).once("error", reject),
    );
    times.push(performance.now() - began);
    if (status !== 200) errors++;
  };
  await Promise.all(
    Array.from({ length: Number(many) }, async () => {
      for (let i = 0; i < Number(rounds); i++) for (const path of paths) await read(path);
    }),
  );
  process.send({ times, errors, bytes }, () => process.exit(0));
});
