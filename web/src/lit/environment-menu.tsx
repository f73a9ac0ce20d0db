// Environment menu: exposure, background, light, and import and removal of environments.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { SlidersHorizontal } from "lucide-react";
import { Popover } from "radix-ui";
import { type RefObject, useRef, useState } from "react";
import { api, done, type EnvironmentRead, importEnvironment } from "@/api/client";
import { resultOf } from "@/api/jobs";
import { queries } from "@/api/queries";
import { refresh } from "@/api/refresh";
import { Button } from "@/parts/button";
import { Choice } from "@/parts/choice";
import { DialField } from "@/parts/dial-field";
import { notify } from "@/parts/notices";
import { Segmented } from "@/parts/segmented";
import type { Backdrop } from "./choices";
import { SavePicture } from "./save-picture";
import type { TakePicture } from "./stage";
import type { EnvironmentState } from "./use-environment";

const backdrops: { value: Backdrop; label: string }[] = [
  { value: "grey", label: "Gray" },
  { value: "seen", label: "Environment" },
];
const kinds: { value: EnvironmentRead["kind"]; label: string; title: string }[] = [
  { value: "panorama", label: "Panorama", title: "360° × 180°, twice as wide as high" },
  { value: "mirror_ball", label: "Mirror ball", title: "photo, cropped to the ball" },
];
const NONE = "none";
const onOff = [
  { value: "off", label: "Off" },
  { value: "on", label: "On" },
] as const;
const ENDINGS = ".hdr,.exr,.png,.jpg,.jpeg,.tif,.tiff,.webp";

interface Props {
  state: EnvironmentState;
  /** Move the light to the brightest point. */
  onLamp: () => void;
  camera: RefObject<TakePicture | null>;
}

export function EnvironmentMenu({ state, onLamp, camera }: Props) {
  const { exposure, setExposure, backdrop, setBackdrop, shadows, setShadows, chosen } = state;
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button
          look="sign"
          aria-label="Environment settings"
          title="Exposure, backdrop, custom environments"
        >
          <SlidersHorizontal className="size-4" aria-hidden="true" />
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          side="top"
          sideOffset={6}
          className="z-30 flex w-84 flex-col gap-2.5 rounded-md border border-rule bg-card p-3"
        >
          <DialField
            label="Exposure"
            hint="stops, brighter or darker"
            unit="EV"
            value={exposure}
            low={-4}
            high={4}
            initial={0}
            onMove={setExposure}
            onCommit={setExposure}
          />
          <div className="flex items-center justify-between">
            <span>Backdrop</span>
            <Segmented
              label="Backdrop"
              value={backdrop}
              options={backdrops}
              onChange={setBackdrop}
            />
          </div>
          <div className="flex items-center justify-between">
            <span>Light casts shadows</span>
            <Segmented
              label="Light casts shadows"
              value={shadows ? "on" : "off"}
              options={onOff}
              onChange={(next) => setShadows(next === "on")}
            />
          </div>
          <div className="flex items-center justify-between">
            <span>Split with…</span>
            <span className="w-40">
              <Choice
                label="Environment of the second half"
                value={state.beside?.value ?? NONE}
                options={[
                  { value: NONE, label: "none" },
                  ...state.all.filter((one) => one !== chosen),
                ]}
                onChange={(value) => state.setBeside(value === NONE ? null : value)}
              />
            </span>
          </div>
          {chosen.brightest && (
            <Button look="plain" onClick={onLamp}>
              Aim light at the brightest point
            </Button>
          )}
          <SavePicture camera={camera} />
          <Own state={state} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Own({ state }: { state: EnvironmentState }) {
  const { project, chosen, choose } = state;
  const [kind, setKind] = useState<EnvironmentRead["kind"]>("panorama");
  const picker = useRef<HTMLInputElement>(null);
  const client = useQueryClient();
  const fresh = () => refresh(client, queries.environments(project).queryKey);
  const take = useMutation({
    mutationFn: async (file: File) => {
      const job = await importEnvironment(project, file, kind);
      void refresh(client, ["jobs"]);
      return { id: (await resultOf(job)).environment_id, name: job.title };
    },
    onSuccess: async ({ id, name }) => {
      await fresh();
      choose(`own-${id}`);
      notify("good", `${name} was imported.`);
    },
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      done(
        api.DELETE("/api/v1/environments/{environment_id}", {
          params: { path: { environment_id: id } },
        }),
      ),
    onSuccess: async () => {
      choose("soft");
      await fresh();
    },
  });
  const own = chosen.value.startsWith("own-") ? Number(chosen.value.slice(4)) : null;
  return (
    <div className="flex flex-col gap-2 border-t border-rule pt-2.5">
      <div className="flex items-center justify-between">
        <span>Custom environment</span>
        <Segmented label="Type of picture" value={kind} options={kinds} onChange={setKind} />
      </div>
      <input
        ref={picker}
        type="file"
        hidden
        accept={ENDINGS}
        aria-label="Environment file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) take.mutate(file);
          event.target.value = "";
        }}
      />
      <Button look="plain" disabled={take.isPending} onClick={() => picker.current?.click()}>
        {take.isPending ? "Importing…" : "Import environment…"}
      </Button>
      {own !== null && (
        <Button look="bare" onClick={() => remove.mutate(own)}>
          Remove {chosen.label}
        </Button>
      )}
    </div>
  );
}
