import { QueryClientProvider } from "@tanstack/react-query";
import { createBrowserRouter, RouterProvider, useRouteError } from "react-router";
import { queryClient } from "../api/queries.ts";
import { Broken } from "../ui/Broken.tsx";
import { ButtonLink } from "../ui/ButtonLink.tsx";
import { later } from "../ui/later.tsx";
import { Home, NewDesign, NotFound } from "./Home.tsx";
import { Shell } from "./Shell.tsx";

const page = <M,>(load: () => Promise<M>, pick: (m: M) => React.ComponentType) => {
  const Page = later(async () => pick(await load()));
  return <Page />;
};

const designs = () => import("../features/designs/index.ts");
const bench = () => import("../features/bench/index.ts");
const notation = () => import("../features/notation/index.ts");
const jars = () => import("../features/jars/index.ts");
const buy = () => import("../features/buy/index.ts");
const orders = () => import("../features/orders/index.ts");
const stocktake = () => import("../features/stocktake/index.ts");
const intake = () => import("../features/intake/index.ts");
const books = () => import("../features/books/index.ts");
const workshop = () => import("../features/workshop/index.ts");
const months = () => import("../features/months/index.ts");
const ahead = () => import("../features/ahead/index.ts");
const lookBack = () => import("../features/lookBack/index.ts");
const box = () => import("../features/box/index.ts");

/** A page that stopped, with the shell still round it where that goes on. */
function Stopped() {
  return (
    <Broken error={useRouteError()}>
      <ButtonLink to="/">Back to the months</ButtonLink>
    </Broken>
  );
}

const pages = [
  { index: true, element: <Home /> },
  { path: "designs", element: page(designs, (m) => m.Library) },
  { path: "designs/new", element: <NewDesign /> },
  { path: "designs/:id", element: page(bench, (m) => m.Bench) },
  { path: "lessons/:id", element: page(bench, (m) => m.LessonBench) },
  { path: "help", element: page(notation, (m) => m.HelpPage) },
  { path: "jars", element: page(jars, (m) => m.Jars) },
  { path: "jars/:id", element: page(jars, (m) => m.Jar) },
  { path: "jars/:id/count", element: page(jars, (m) => m.CountJar) },
  { path: "j/:code", element: page(jars, (m) => m.CountJar) },
  { path: "ahead", element: page(ahead, (m) => m.AheadPage) },
  { path: "look-back", element: page(lookBack, (m) => m.LookBackPage) },
  { path: "buy", element: page(buy, (m) => m.BuyPage) },
  { path: "orders", element: page(orders, (m) => m.Orders) },
  { path: "orders/:id", element: page(orders, (m) => m.OrderPage) },
  { path: "stocktakes", element: page(stocktake, (m) => m.Stocktakes) },
  { path: "stocktakes/:id", element: page(stocktake, (m) => m.Walk) },
  { path: "tables/:kind?", element: page(intake, (m) => m.TablesIn) },
  { path: "books", element: page(books, (m) => m.BooksPage) },
  { path: "workshop/:part?", element: page(workshop, (m) => m.WorkshopPage) },
  { path: "months/new", element: page(months, (m) => m.NewMonth) },
  { path: "months/:id/:stage?", element: page(box, (m) => m.BoxPage) },
  { path: "*", element: <NotFound /> },
];
const router = createBrowserRouter([
  { element: <Shell />, errorElement: <Stopped />, children: [{ errorElement: <Stopped />, children: pages }] },
]);

export function App() {
  return (
    <QueryClientProvider client={queryClient}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  );
}
