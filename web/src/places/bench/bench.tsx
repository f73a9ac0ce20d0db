// The Bench: flat and lit view side by side, the map strip, and the settings of the selected map.

import { useQuery } from "@tanstack/react-query";
import { Link, Navigate, useParams } from "react-router";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { buttonClass } from "@/parts/button";
import { readRemembered } from "@/parts/remembered";
import { useTitle } from "@/parts/title";
import { SetOnBench } from "./set-on-bench";

/** Without a set in the address, the first one opens. */
export function BenchEntry() {
  const project = useProject();
  const { data: tray } = useQuery(queries.tray(project));
  if (!tray) return null;
  const sets = tray.rows;
  const last = readRemembered(`bench/${project}`);
  const first = sets.find((one) => String(one.id) === last) ?? sets[0];
  if (first) return <Navigate to={`/${project}/bench/${first.id}`} replace />;
  return (
    <div className="p-10 text-center">
      <p className="mb-3 text-lead">No texture sets yet.</p>
      <Link to={`/${project}/tray`} className={buttonClass("main")}>
        Import a photo on the Tray
      </Link>
    </div>
  );
}

export function Bench() {
  const { setId } = useParams();
  const { data: set, error } = useQuery(queries.set(Number(setId)));
  const { data: vocabulary } = useQuery(queries.vocabulary());
  useTitle(set?.name, "Bench");
  if (error) return <p className="m-4 rounded-md bg-wrong-pale p-3 text-wrong">{error.message}</p>;
  if (!set || !vocabulary) return null;
  return <SetOnBench key={set.id} set={set} vocabulary={vocabulary} />;
}
