import { QueryClientProvider } from "@tanstack/react-query";
import { queryClient } from "./api/queries.ts";
import { BenchScreen } from "./features/pack/index.ts";
import { start } from "./start.tsx";

start(
  <QueryClientProvider client={queryClient}>
    <BenchScreen />
  </QueryClientProvider>,
);
