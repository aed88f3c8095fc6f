import { useQuery } from "@tanstack/react-query";
import { Link, Navigate } from "react-router";
import { boxesQuery } from "../api/queries.ts";
import { ButtonLink, Empty } from "../ui/controls.tsx";
import { Page, Waiting } from "../ui/page.tsx";

/** Opens the first month on the shelf; in an empty workshop, says how to begin. */
export function Home() {
  const boxes = useQuery(boxesQuery);
  if (!boxes.data) return <Waiting error={boxes.error} what="the months" retry={() => void boxes.refetch()} />;
  const first = boxes.data[0];
  if (first) return <Navigate to={`/months/${first.id}`} replace />;
  return (
    <Page title="An empty workshop">
      <Empty
        title="An empty workshop"
        action={
          <div className="flex justify-center gap-2">
            <ButtonLink look="main" to="/designs?new">
              Write the first design
            </ButtonLink>
            <ButtonLink to="/jars/new">Add a component</ButtonLink>
            <ButtonLink to="/months/new">Plan a month</ButtonLink>
          </div>
        }
      >
        A month's box holds designs; designs are counted bead by bead; colourways say which jar every bead comes from.
        Begin wherever you have something at hand, or{" "}
        <Link to="/workshop" className="link font-medium">
          take an archive in
        </Link>
        .
      </Empty>
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
