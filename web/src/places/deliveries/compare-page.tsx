// Comparison of two deliveries: differing files, lit and by channel.
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "@/api/client";
import { queries } from "@/api/queries";
import { useProject } from "@/app";
import { Choice } from "@/parts/choice";
import { when } from "@/parts/format";
import { useTitle } from "@/parts/title";
import { WideDialog } from "@/parts/wide-dialog";
import { TexelRow } from "./texel-row";
import { useTargetTitles } from "./use-target-titles";

type Part = Schemas["ComparedPartRead"];
type File = Part["files"][number];

interface Pair {
  earlier: number;
  later: number;
}

export function ComparePage() {
  useTitle("Compare deliveries");
  const project = useProject();
  const navigate = useNavigate();
  const params = useParams();
  const pair = { earlier: Number(params.deliveryId), later: Number(params.otherId) };
  const {
    data: all = [],
    hasNextPage,
    isFetchingNextPage,
    fetchNextPage,
  } = useInfiniteQuery(queries.deliveries(project));
  useEffect(() => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage(); // deliveries that can be compared
  }, [hasNextPage, isFetchingNextPage, fetchNextPage]);
  const { data: parts, error } = useQuery(queries.compared(pair.earlier, pair.later));
  const done = all.filter((one) => one.state === "done");
  const options = done.map((one) => ({
    value: String(one.id),
    label: `Delivery ${one.id}, ${when(one.created_at)}`,
  }));
  const go = ({ earlier, later }: Pair) =>
    navigate(`/${project}/deliveries/${earlier}/compare/${later}`, { replace: true });
  return (
    <div className="px-4 pb-6">
      <div className="flex h-bar items-center gap-3">
        <Link to={`/${project}/deliveries`} className="text-second hover:text-ink">
          Deliveries
        </Link>
        <span className="text-second">/</span>
        <h1 className="text-title font-semibold">Compare</h1>
        <span className="w-56">
          <Choice
            label="Earlier"
            value={String(pair.earlier)}
            options={options}
            onChange={(next) => go({ ...pair, earlier: Number(next) })}
          />
        </span>
        <span className="text-second">with</span>
        <span className="w-56">
          <Choice
            label="Later"
            value={String(pair.later)}
            options={options}
            onChange={(next) => go({ ...pair, later: Number(next) })}
          />
        </span>
      </div>
      {error && <p className="rounded-md bg-wrong-pale p-3 text-wrong">{error.message}</p>}
      {parts?.length === 0 && (
        <p className="rounded-md border border-rule bg-card p-6 text-center text-verdigris">
          ✓ Both deliveries wrote identical files.
        </p>
      )}
      {parts
        ?.filter((part) => part.n !== null && part.other_n !== null)
        .map((part) => (
          <ComparedPart key={`${part.set_name} ${part.target_id}`} part={part} pair={pair} />
        ))}
      <OnlyIn of={pair.earlier} parts={parts?.filter((part) => part.other_n === null)} />
      <OnlyIn of={pair.later} parts={parts?.filter((part) => part.n === null)} />
    </div>
  );
}

/** Sets and targets that only one of the deliveries contains. */
function OnlyIn({ of, parts = [] }: { of: number; parts?: Part[] | undefined }) {
  const titleOf = useTargetTitles();
  if (parts.length === 0) return null;
  const names = parts.map((part) => `${part.set_name} for ${titleOf(part.target_id)}`);
  return (
    <p className="mb-2 text-second">
      Only in delivery {of}: {names.join(", ")}.
    </p>
  );
}

function ComparedPart({ part, pair }: { part: Part; pair: Pair }) {
  const [viewed, setViewed] = useState<{ file: string; letter: string } | null>(null);
  const titleOf = useTargetTitles();
  const same = part.files.filter((one) => one.kind === "same").length;
  return (
    <section
      aria-label={`${part.set_name} for ${part.target_id}`}
      className="mb-3 flex gap-5 rounded-md border border-rule bg-card p-4"
    >
      <Lit of={pair.earlier} n={part.n ?? 0} words={`delivery ${pair.earlier}`} />
      <Lit of={pair.later} n={part.other_n ?? 0} words={`delivery ${pair.later}`} />
      <div className="min-w-0 grow">
        <h2 className="font-semibold">
          {part.set_name}{" "}
          <span className="font-normal text-second">for {titleOf(part.target_id)}</span>
        </h2>
        <p className="mb-2 text-second">
          {part.maps.length > 0 ? `Maps that differ: ${part.maps.join(", ")}.` : ""}
        </p>
        <ul>
          {part.files
            .filter((one) => one.kind !== "same")
            .map((file) => (
              <ComparedFile
                key={file.name}
                file={file}
                onView={(letter) => setViewed({ file: file.name, letter })}
              />
            ))}
        </ul>
        {same > 0 && (
          <p className="mt-1 text-second">
            {same} {same === 1 ? "file is" : "files are"} identical.
          </p>
        )}
      </div>
      {viewed && (
        <Viewer
          pair={pair}
          n={part.n ?? 0}
          otherN={part.other_n ?? 0}
          {...viewed}
          onClose={() => setViewed(null)}
        />
      )}
    </section>
  );
}

/** A set as delivered, under the same light in both pictures. */
function Lit({ of, n, words }: { of: number; n: number; words: string }) {
  return (
    <figure className="w-52 shrink-0">
      <img
        src={`/api/v1/deliveries/${of}/parts/${n}/lit.png`}
        alt={`lit, ${words}`}
        className="aspect-square w-full rounded-sm bg-ground object-cover"
      />
      <figcaption className="pt-1 text-list text-second">{words}</figcaption>
    </figure>
  );
}

const kinds = {
  same: { sign: "=", look: "text-second" },
  changed: { sign: "≠", look: "text-ochre" },
  added: { sign: "+", look: "text-verdigris" },
  gone: { sign: "−", look: "text-wrong" },
} as const;

function ComparedFile({ file, onView }: { file: File; onView: (letter: string) => void }) {
  const { sign, look } = kinds[file.kind];
  return (
    <li className="flex h-8 items-center gap-3 border-t border-rule">
      <span className={`w-20 ${look}`}>
        {sign} {file.kind}
      </span>
      <span className="truncate figures font-medium">{file.name}</span>
      <span className="text-second">{file.words}</span>
      <span className="ml-auto flex gap-1">
        {file.channels.map((letter) => (
          <button
            key={letter}
            type="button"
            aria-label={`Compare ${letter} of ${file.name}`}
            className="rounded-sm border border-rule bg-sheet px-2 hover:bg-card"
            onClick={() => onView(letter)}
          >
            {letter}
          </button>
        ))}
        {file.kind === "changed" && file.channels.length === 0 && !file.words && (
          <span className="text-second">different bytes, identical texels</span>
        )}
      </span>
    </li>
  );
}

interface ViewerProps {
  pair: Pair;
  n: number;
  otherN: number;
  file: string;
  letter: string;
  onClose: () => void;
}

const CODES = 255;

function Viewer({ pair, n, otherN, file, letter, onClose }: ViewerProps) {
  const { data, error } = useQuery(queries.comparedChannel({ ...pair, n, otherN, file, letter }));
  const figures = data && [
    { title: `delivery ${pair.earlier}`, picture: data.before },
    { title: `delivery ${pair.later}`, picture: data.after },
    { title: `difference × ${data.amplified}`, picture: data.difference },
  ];
  return (
    <WideDialog
      title={
        <>
          {letter} of <span className="figures">{file}</span>
        </>
      }
      about="in both deliveries"
      error={error}
      waiting="computing both versions…"
      onClose={onClose}
    >
      {data && (
        <>
          <TexelRow
            pictures={figures ?? []}
            address={`/api/v1/deliveries/${pair.earlier}/parts/${n}/comparisons/${pair.later}/${otherN}/files/${encodeURIComponent(file)}/channels/${letter}`}
            titles={{ before: `delivery ${pair.earlier}`, after: `delivery ${pair.later}` }}
            apart={["after", "before"]}
            amplified={data.amplified}
          />
          <p className="pt-3 figures text-second">
            differs by up to {(data.largest * CODES).toFixed(1)} of 255,{" "}
            {(data.mean * CODES).toFixed(2)} on average
          </p>
        </>
      )}
    </WideDialog>
  );
}
