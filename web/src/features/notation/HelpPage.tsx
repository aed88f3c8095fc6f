import { useMemo } from "react";
import { Link, useSearchParams } from "react-router";
import { Page, PageHead } from "../../ui/page.tsx";
import { Constructs } from "./Constructs.tsx";
import { examplesOf } from "./examples.ts";
import { LESSONS } from "./lessons.ts";

/** How rows are written, four lessons, and where everything is: the help that needs no design. */
export function HelpPage() {
  const [params, setParams] = useSearchParams();
  const search = params.get("find") ?? "";
  const examples = useMemo(() => examplesOf(null), []);
  return (
    <Page title="Help">
      <PageHead
        title="Help"
        about="How rows are written, and four short lessons. On a design, ? opens this beside the rows."
      />
      <div className="px-6 pb-4">
        <input
          type="search"
          className="field h-10! w-full max-w-xl"
          aria-label="Find in the help"
          placeholder="pin, earring, crimp, postage, backup …"
          value={search}
          onChange={(e) => setParams(e.target.value ? { find: e.target.value } : {}, { replace: true })}
        />
      </div>
      <section className="px-6" aria-label="Lessons" hidden={search.trim() !== ""}>
        <h2>Learn it by doing</h2>
        <ul className="grid gap-x-8 gap-y-2 py-2 sm:grid-cols-2">
          {LESSONS.map((l) => (
            <li key={l.id}>
              <Link className="link inline-block py-1 font-medium" to={`/lessons/${l.id}`}>
                {l.title}
              </Link>
              <span className="block text-muted">{l.about}</span>
            </li>
          ))}
        </ul>
      </section>
      <section className="px-6 pt-6" aria-label="The notation">
        <h2 className="pb-2">{search.trim() === "" ? "How rows are written" : "Found"}</h2>
        <div className="max-w-3xl">
          <Constructs examples={examples} search={search} />
        </div>
      </section>
    </Page>
  );
}
