/**
 * A large but ordinary workshop for measuring: 20,000 components and one box of 5 designs in 14 colourways with 60
 * roles. Components go in by SQL, everything else through the API, so that any version of the server can be filled.
 */
import { randomUUID } from "node:crypto";
import { createRequire } from "node:module";

export const LARGE = { components: 20_000, designs: 5, colourways: 14, roles: 60 };
const ROLES_A_DESIGN = LARGE.roles / LARGE.designs;
const FORMS = ["round", "cube", "bicone", "seed"];

async function put(url, path, body) {
  const answer = await fetch(`${url}${path}`, {
    method: "PUT",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
  if (!answer.ok) throw new Error(`${path}: ${await answer.text()}`);
}

/** Puts components in, with an offer and some stock each. */
async function fillComponents(databaseUrl) {
  const pg = createRequire(import.meta.url)("pg");
  const db = new pg.Client(databaseUrl);
  // Where a step fails, the cluster is stopped under it: what failed is what is to be seen.
  db.on("error", () => {});
  await db.connect();
  await db.query(
    `insert into components (id, code, name, kind, form, colour, finish, base_unit, along_mm, across_mm, hole_mm)
     select gen_random_uuid(), 'L' || n, (array['6 mm', '8 mm', '4 mm', '11/0'])[1 + n % 4] || ' '
       || ($2::text[])[1 + n % 4] || ', tone ' || n, 'bead', ($2::text[])[1 + n % 4],
       '#' || lpad(to_hex((n * 7919) % 16777216), 6, '0'), 'matt', 'piece', 2 + n % 5, 4, 0.8
     from generate_series(1, $1::int) n`,
    [LARGE.components, FORMS],
  );
  await db.query(
    `insert into offers (component_id, position, pack, amount, unit, price)
     select id, 0, 'strand of 50', 50, 'piece', 2.80 from components where code like 'L%'`,
  );
  const { rows } = await db.query(`select id from components where code like 'L%' order by code limit 1000`);
  await db.query("analyze");
  await db.end();
  return rows.map((r) => r.id);
}

/** A design of so many roles, in rows that repeat and mirror. */
function designOf(d) {
  const key = Array.from({ length: ROLES_A_DESIGN }, (_, r) => ({
    key: `K${r}`,
    id: `d${d}r${r}`,
    name: `design ${d}, bead ${r}`,
    kind: "bead",
    alongMm: 2 + (r % 5),
  }));
  const steps = Array.from({ length: ROLES_A_DESIGN }, (_, r) => {
    const [a, b] = [`K${r}`, `K${(r + 1) % ROLES_A_DESIGN}`];
    return `Row ${r + 1}: (3${a} 2${b}) x${3 + d} mirror 2${a} (${b} ${a}) x4 between (${b})`;
  }).join("\n");
  const fixed = steps.replace(/ mirror 2/g, " 2");
  return {
    format: "jar-count/design",
    version: 1,
    name: `Large ${d}`,
    key: [...key, { key: "TH", name: "thread", kind: "stringing" }],
    parts: [{ id: "p", name: "Piece", stringing: "TH", tailMm: 100, steps: fixed }],
  };
}

/** Puts the designs of a large box in. */
export async function putDesigns(url) {
  const designs = Array.from({ length: LARGE.designs }, (_, d) => ({ id: randomUUID(), design: designOf(d) }));
  for (const { id, design } of designs) await put(url, `/api/designs/${id}`, { revision: 0, reason: "", design });
  return designs;
}

/**
 * Puts a large box in.
 * @param thread the component that its thread is; without one, the thread is not on its tray
 * @param from which component its first role takes; the others follow
 */
export async function putBox(url, designs, components, { month, theme, colourways: many, boxes, thread, from = 0 }) {
  const colourways = Array.from({ length: many }, (_, w) => ({ id: randomUUID(), name: `Way ${w + 1}` }));
  const lines = designs.map(({ id }) => ({
    id: randomUUID(),
    designId: id,
    revision: 1,
    times: 1,
    size: null,
    option: null,
  }));
  const roles = designs.flatMap(({ design }, d) =>
    design.key
      .filter((e) => e.kind === "bead")
      .map((e) => ({
        line: lines[d].id,
        entry: e.id,
        role: { id: randomUUID(), name: e.name, kind: "bead", follows: "first" },
      })),
  );
  const cord = { id: randomUUID(), name: "thread", kind: "stringing", follows: "none" };
  const box = {
    month,
    theme,
    lines,
    colourways,
    seconds: [],
    variants: colourways.map((c) => ({ first: c.id, second: null, boxes })),
    roles: [...roles.map((r) => r.role), ...(thread ? [cord] : [])],
    bindings: [
      ...roles.map((r) => ({ line: r.line, role: r.entry, boxRole: r.role.id })),
      ...(thread ? lines.map((l) => ({ line: l.id, role: "TH", boxRole: cord.id })) : []),
    ],
    picks: [
      ...colourways.flatMap((c, w) =>
        roles.map((r, i) => ({
          boxRole: r.role.id,
          first: c.id,
          second: null,
          component: components[(from + w * roles.length + i) % components.length],
        })),
      ),
      ...(thread ? [{ boxRole: cord.id, first: null, second: null, component: thread }] : []),
    ],
  };
  const id = randomUUID();
  await put(url, `/api/boxes/${id}`, { version: 0, box });
  return id;
}

/** Fills an empty or a demo workshop. Returns what was made. */
export async function fillLarge(url, databaseUrl) {
  const components = await fillComponents(databaseUrl);
  const designs = await putDesigns(url);
  const large = { month: "2029-05", theme: "Large", colourways: LARGE.colourways, boxes: 40 };
  return { box: await putBox(url, designs, components, large), components };
}
