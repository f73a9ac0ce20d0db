import { MutationCache, QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, RouterProvider, useParams } from "react-router";
import { isAway } from "@/api/client";
import { queries } from "@/api/queries";
import { Frame } from "@/app";
import { ErrorBoundary, loaded, ViewErrorBoundary } from "@/parts/error-boundary";
import { dismissCause, notify } from "@/parts/notices";
import "./styles.css";

const AWAY_TRIES = 600;

const client = new QueryClient({
  defaultOptions: {
    queries: {
      // Reconnect when the server returns; retry other errors once.
      retry: (tries, error) => tries < (isAway(error) ? AWAY_TRIES : 1),
      retryDelay: 1000,
      networkMode: "always",
      refetchOnWindowFocus: true,
      staleTime: 1000,
    },
    mutations: { networkMode: "always" },
  },
  // Remove the message about a failure when the same operation succeeds.
  mutationCache: new MutationCache({
    onError: (error, _variables, _context, { options }) =>
      notify("wrong", error.message, undefined, causeOf(options.mutationKey)),
    onSuccess: (_data, _variables, _context, { options }) => {
      const cause = causeOf(options.mutationKey);
      if (cause) dismissCause(cause);
    },
  }),
});

function causeOf(key: readonly unknown[] | undefined): string | undefined {
  return key?.join(" ");
}

function Door() {
  const { data: projects, error } = useQuery(queries.projects());
  if (error) return <p className="p-8">The server is unreachable: {error.message}</p>;
  if (!projects) return null;
  const [only, ...others] = projects;
  return <Navigate to={only && others.length === 0 ? `/${only.slug}/tray` : "/projects"} replace />;
}

function ProjectDoor() {
  return <Navigate to={`/${useParams().project}/tray`} replace />;
}

// Each view is a separate chunk, loaded at its first use.
const Projects = loaded(async () => ({
  default: (await import("@/places/projects/projects")).Projects,
}));
const Tray = loaded(async () => ({ default: (await import("@/places/tray/tray")).Tray }));
const Intake = loaded(async () => ({ default: (await import("@/places/intake/intake")).Intake }));
const Models = loaded(async () => ({
  default: (await import("@/places/models/models")).Models,
}));
const BenchEntry = loaded(async () => ({
  default: (await import("@/places/bench/bench")).BenchEntry,
}));
const Bench = loaded(async () => ({ default: (await import("@/places/bench/bench")).Bench }));
const Targets = loaded(async () => ({
  default: (await import("@/places/targets/targets")).Targets,
}));
const Deliveries = loaded(async () => ({
  default: (await import("@/places/deliveries/deliveries")).Deliveries,
}));
const DeliveryPage = loaded(async () => ({
  default: (await import("@/places/deliveries/delivery-page")).DeliveryPage,
}));

const ComparePage = loaded(async () => ({
  default: (await import("@/places/deliveries/compare-page")).ComparePage,
}));

const router = createBrowserRouter([
  { path: "/", element: <Door />, errorElement: <ViewErrorBoundary /> },
  { path: "/projects", element: <Projects />, errorElement: <ViewErrorBoundary /> },
  {
    path: "/:project",
    element: <Frame />,
    errorElement: <ViewErrorBoundary />,
    children: [
      { index: true, element: <ProjectDoor />, errorElement: <ViewErrorBoundary /> },
      { path: "tray", element: <Tray />, errorElement: <ViewErrorBoundary /> },
      { path: "intake", element: <Intake />, errorElement: <ViewErrorBoundary /> },
      { path: "models", element: <Models />, errorElement: <ViewErrorBoundary /> },
      { path: "bench", element: <BenchEntry />, errorElement: <ViewErrorBoundary /> },
      { path: "targets/:targetId?", element: <Targets />, errorElement: <ViewErrorBoundary /> },
      { path: "bench/:setId/:kind?", element: <Bench />, errorElement: <ViewErrorBoundary /> },
      { path: "deliveries", element: <Deliveries />, errorElement: <ViewErrorBoundary /> },
      {
        path: "deliveries/:deliveryId",
        element: <DeliveryPage />,
        errorElement: <ViewErrorBoundary />,
      },
      {
        path: "deliveries/:deliveryId/compare/:otherId",
        element: <ComparePage />,
        errorElement: <ViewErrorBoundary />,
      },
      { path: "*", element: <ProjectDoor />, errorElement: <ViewErrorBoundary /> },
    ],
  },
]);

const root = document.getElementById("root");
if (!root) throw new Error("The page has no root element");

// Commit the content of a focused field before the page unloads.
for (const leaving of ["beforeunload", "pagehide"])
  addEventListener(leaving, () => (document.activeElement as HTMLElement | null)?.blur());

createRoot(root).render(
  <StrictMode>
    <ErrorBoundary what="Copper Sieve">
      <QueryClientProvider client={client}>
        <Tooltip.Provider delayDuration={250}>
          {/* A transition would delay the chosen map until its pictures have loaded. */}
          <RouterProvider router={router} useTransitions={false} />
        </Tooltip.Provider>
      </QueryClientProvider>
    </ErrorBoundary>
  </StrictMode>,
);
