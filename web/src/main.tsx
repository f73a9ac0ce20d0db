import { MutationCache, QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, RouterProvider, useParams } from "react-router";
import { queries } from "@/api/queries";
import { Frame } from "@/app";
import { notify } from "@/parts/notices";
import { Bench, BenchDoor } from "@/places/bench/bench";
import { Deliveries } from "@/places/deliveries/deliveries";
import { DeliveryPage } from "@/places/deliveries/delivery-page";
import { Intake } from "@/places/intake/intake";
import { Targets } from "@/places/targets/targets";
import { Tray } from "@/places/tray/tray";
import "./styles.css";

const client = new QueryClient({
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: true, staleTime: 1000 } },
  mutationCache: new MutationCache({ onError: (error) => notify("wrong", error.message) }),
});

function Door() {
  const { data: projects, error } = useQuery(queries.projects());
  if (error) return <p className="p-8">The server cannot be reached: {error.message}</p>;
  const first = projects?.[0];
  return first ? <Navigate to={`/${first.slug}/tray`} replace /> : null;
}

function ProjectDoor() {
  return <Navigate to={`/${useParams().project}/tray`} replace />;
}

const router = createBrowserRouter([
  { path: "/", element: <Door /> },
  {
    path: "/:project",
    element: <Frame />,
    children: [
      { index: true, element: <ProjectDoor /> },
      { path: "tray", element: <Tray /> },
      { path: "intake", element: <Intake /> },
      { path: "bench", element: <BenchDoor /> },
      { path: "targets/:targetId?", element: <Targets /> },
      { path: "bench/:setId/:kind?", element: <Bench /> },
      { path: "deliveries", element: <Deliveries /> },
      { path: "deliveries/:deliveryId", element: <DeliveryPage /> },
      { path: "*", element: <ProjectDoor /> },
    ],
  },
]);

const root = document.getElementById("root");
if (!root) throw new Error("the page has no root");
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <Tooltip.Provider delayDuration={250}>
        {/* A map that is chosen is there at once: a transition would wait for the pictures. */}
        <RouterProvider router={router} useTransitions={false} />
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>,
);
