import { QueryClientProvider } from "@tanstack/react-query";
import { queryClient } from "./api/queries.ts";
import { BenchScreen } from "./features/pack/index.ts";
import { start } from "./start.tsx";
import { Catching } from "./ui/Broken.tsx";

start(
  <QueryClientProvider client={queryClient}>
    <Catching>
      <BenchScreen />
    </Catching>
  </QueryClientProvider>,
);
