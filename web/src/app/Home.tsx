import type { BoxSummary } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, Navigate, useNavigate } from "react-router";
import { boxesQuery, designsQuery, queryClient, workshopQuery } from "../api/queries.ts";
import { useSend } from "../api/useSend.ts";
import { ButtonLink } from "../ui/ButtonLink.tsx";
import { Button, Empty, Fault } from "../ui/controls.tsx";
import { later } from "../ui/later.tsx";
import { Page } from "../ui/page.tsx";
import { Waiting } from "../ui/Waiting.tsx";

/** Opens the box that is worked on; in an empty workshop, says how to begin. */
export function Home() {
  const [boxes, designs, workshop] = [useQuery(boxesQuery), useQuery(designsQuery), useQuery(workshopQuery)];
  const waiting = [boxes, designs, workshop].find((q) => !q.data);
  if (waiting) return <Waiting error={waiting.error} what="the months" retry={() => void waiting.refetch()} />;
  const inHand = boxInHand(boxes.data!);
  // Whoever went on meanwhile, to a room that is still being fetched, is not called back.
  const hasGoneOn = window.location.pathname !== "/";
  if (inHand) return hasGoneOn ? null : <Navigate to={`/months/${inHand.id}`} replace />;
  if (designs.data!.length === 0) {
    // As it came, and nobody has said yet what money and lengths are written in.
    return workshop.data!.version === 1 ? <SetUp workshop={workshop.data!} others={<Others />} /> : <EmptyWorkshop />;
  }
  return (
    <Page title="No month yet">
      <Empty
        title="No month yet"
        action={
          <ButtonLink look="main" to="/months/new">
            Plan a month
          </ButtonLink>
        }
      >
        The designs are there. A month’s box takes them up, gives each its colourways, and counts the whole run.
      </Empty>
    </Page>
  );
}

/** The box that is worked on: one being packed, else the next to commit, else the next to pack. */
function boxInHand(boxes: readonly BoxSummary[]): BoxSummary | undefined {
  const first = (state: BoxSummary["state"]) => boxes.find((b) => b.state === state);
  return first("packing") ?? first("planned") ?? first("committed") ?? boxes.at(-1);
}

const SetUp = later(async () => (await import("../features/workshop/index.ts")).SetUp);

function useSeeInvented() {
  const navigate = useNavigate();
  const seeing = useSend("seeInvented", () => queryClient.invalidateQueries());
  const see = async () => {
    if (await seeing.send({})) await navigate("/");
  };
  return { ...seeing, see };
}

/** What one may do before a workshop has a name. */
function Others() {
  const { see, busy, refusal } = useSeeInvented();
  return (
    <>
      <p className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <Button disabled={busy} onClick={() => void see()}>
          {busy ? "Filling the jars …" : "See the invented workshop"}
        </Button>
        <Link to="/workshop/data" className="link font-medium">
          Bring an archive in
        </Link>
        <Link to="/help" className="link font-medium">
          Four short lessons
        </Link>
      </p>
      {refusal && <Fault>{refusal.detail}</Fault>}
    </>
  );
}

/** A new design gets its id here: nothing of it is kept until something is in it. */
export function NewDesign() {
  const [id] = useState(() => crypto.randomUUID());
  return <Navigate to={`/designs/${id}?new`} replace />;
}

/** Three ways in, each of which leads on until the first box is counted. */
function EmptyWorkshop() {
  const seeing = useSeeInvented();
  const ways = [
    {
      title: "Begin with one design",
      says: "Name its beads as you would say them, write its rows, and see at once how many of each it takes.",
      action: (
        <ButtonLink look="main" to="/designs/new">
          Write the first design
        </ButtonLink>
      ),
    },
    {
      title: "Begin with what is on the shelf",
      says: "Bring in a table of your beads from a spreadsheet, or write them down one by one.",
      action: (
        <span className="flex flex-wrap gap-2">
          <ButtonLink to="/tables/components">Bring a table in</ButtonLink>
          <ButtonLink to="/jars/new">Add a component</ButtonLink>
        </span>
      ),
    },
    {
      title: "Look round first",
      says: "The invented workshop has five months, thirteen designs and full jars. It can be emptied again any time.",
      action: (
        <Button disabled={seeing.busy} onClick={() => void seeing.see()}>
          {seeing.busy ? "Filling the jars …" : "See the invented workshop"}
        </Button>
      ),
    },
  ];
  return (
    <Page title="An empty workshop">
      <div className="mx-auto max-w-4xl px-6 py-10">
        <h1>An empty workshop</h1>
        <p className="mt-1 mb-6 max-w-prose text-muted">
          A month’s box holds designs, designs are counted bead by bead, and colourways say which jar every bead comes
          from. Begin wherever you have something at hand.
        </p>
        <ul className="grid gap-x-8 gap-y-6 md:grid-cols-3">
          {ways.map((way) => (
            <li key={way.title} className="border-t border-rule pt-3">
              <h2>{way.title}</h2>
              <p className="mt-1 mb-3">{way.says}</p>
              {way.action}
            </li>
          ))}
        </ul>
        {seeing.refusal && (
          <p className="mt-4">
            <Fault>{seeing.refusal.detail}</Fault>
          </p>
        )}
        <p className="mt-8 text-muted">
          Never done it?{" "}
          <Link to="/help" className="link font-medium">
            Four short lessons
          </Link>{" "}
          show how rows are written. Moving in?{" "}
          <Link to="/workshop/data" className="link font-medium">
            Bring an archive in
          </Link>
          .
        </p>
      </div>
    </Page>
  );
}

export function NotFound() {
  return (
    <Page title="Not here">
      <Empty title="There is nothing at this address" action={<ButtonLink to="/">Back to the months</ButtonLink>}>
        It may have been taken out, or the address was cut short.
      </Empty>
    </Page>
  );
}
