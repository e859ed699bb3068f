import { useEffect, useRef, useState } from "react";
import * as calls from "../api/calls";
import { Trouble } from "../api/client";
import type { ProofPlan, Scene } from "../api/shapes";
import { Follows, useFollows } from "../controls/Follows";
import { SheetBox } from "../controls/SheetBox";
import { shown } from "../document/numbers";
import { put } from "../document/path";
import { edit } from "../state/edits";
import { engine } from "../state/engine";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";
import { ShotChoice } from "../controls/ShotChoice";

interface Wish {
  setting: number;
  middle: number | null;
  spread: number;
  turn: number;
}

interface Made {
  value: number;
  url: string;
  unlike: number | null;
  /** Drawn by following the light. */
  followed: boolean;
}

const FIRST: Wish = { setting: 0, middle: null, spread: 1, turn: 0 };
const WIDE_PX = 250;
const HIGH_PX = 168;
const HARDLY = 2.5; // mean difference of two pictures, of 255, below which nobody tells them apart

/** The eye that the pictures are seen from: a shot's, the view's, or none for above. */
function eyeOf(shots: Scene["shots"], chosen: string) {
  const pose = shots.find((s) => s.id === chosen);
  if (pose)
    return {
      east: pose.east_m,
      north: pose.north_m,
      eye: pose.eye_m,
      bearing: pose.bearing,
      tilt: pose.tilt,
      focal: pose.focal_mm,
    };
  const view = chosen === "view" ? engine.view?.pose : null;
  if (!view) return null;
  const { east, north, up, bearing, tilt, focal } = view;
  return { east, north, up, bearing, tilt, focal };
}

/** Brightness of a picture's dots, to tell two pictures apart. */
async function dots(picture: Blob): Promise<Uint8ClampedArray> {
  const image = await createImageBitmap(picture, { resizeWidth: 60, resizeHeight: 40 });
  const canvas = new OffscreenCanvas(60, 40);
  const paint = canvas.getContext("2d")!;
  paint.drawImage(image, 0, 0);
  return paint.getImageData(0, 0, 60, 40).data;
}

function difference(a: Uint8ClampedArray, b: Uint8ClampedArray): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += Math.abs(a[i] - b[i]);
  return (sum * 4) / 3 / a.length;
}

/** The plan of the sheet: which settings may be varied, and the values to try. */
function usePlan(wish: Wish): ProofPlan | null | undefined {
  const id = usePage((s) => s.id);
  const [plan, setPlan] = useState<ProofPlan | null | undefined>(undefined);
  useEffect(() => {
    const halt = new AbortController();
    const asked = { document: get().doc, entry: get().chosen, ...wish };
    calls
      .proofPlan(id!, asked, halt.signal)
      .then(setPlan)
      .catch((e) => {
        if (halt.signal.aborted) return;
        if (e instanceof Trouble) setPlan(null);
        else tell(e);
      });
    return () => halt.abort();
  }, [id, wish]);
  return plan;
}

/**
 * The pictures of a plan, one by one, and a way to stop them; where it is wished the light is
 * followed for each once all are there.
 */
function usePictures(plan: ProofPlan | null | undefined, shot: string, follows: boolean) {
  const [made, setMade] = useState<Made[]>([]);
  const [running, setRunning] = useState(false);
  const halt = useRef<AbortController | null>(null);
  useEffect(() => {
    if (!plan) return;
    const own = (halt.current = new AbortController());
    const urls: string[] = [];
    setMade([]);
    setRunning(true);
    const give = (i: number, m: Made) => {
      if (m.url) urls.push(m.url);
      setMade((all) => Object.assign([...all], { [i]: m }));
    };
    const all = async () => {
      await drawAll(plan, shot, false, own.signal, give);
      if (follows && shot && !own.signal.aborted) await drawAll(plan, shot, true, own.signal, give);
    };
    void all().finally(() => !own.signal.aborted && setRunning(false));
    return () => {
      own.abort();
      setTimeout(() => urls.forEach((u) => URL.revokeObjectURL(u)), 1000);
    };
  }, [plan, shot, follows]);
  const stop = () => {
    halt.current?.abort();
    setRunning(false);
  };
  return { made, running, stop };
}

async function drawAll(
  plan: ProofPlan,
  shot: string,
  followed: boolean,
  signal: AbortSignal,
  give: (index: number, made: Made) => void,
) {
  const { doc, id, pinned, place } = get();
  const choice = plan.choices[plan.setting];
  const pose = eyeOf(doc!.shots, shot);
  const sowing = plan.sowing
    ? { sowing: plan.entry, ...(pinned && place ? { east: place.east, north: place.north } : {}) }
    : {};
  let first: Uint8ClampedArray | null = null;
  for (const [i, value] of plan.values.entries()) {
    const document = structuredClone(doc!);
    put(document, choice.path, value);
    const size = { width_px: WIDE_PX, height_px: HIGH_PX };
    const by = followed ? { followed, shot: shot === "view" ? "" : shot } : sowing;
    const asked = { document, pose, ...size, ...by };
    try {
      const picture = await calls.drawProof(id!, asked, signal);
      const now = await dots(picture);
      if (signal.aborted) return;
      const unlike = first ? difference(first, now) : null;
      first ??= now;
      give(i, { value, url: URL.createObjectURL(picture), unlike, followed });
    } catch (e) {
      if (signal.aborted) return;
      if (!(e instanceof Trouble)) {
        tell(e);
        return;
      }
      give(i, { value, url: "", unlike: null, followed });
    }
  }
}

/**
 * Twelve small pictures of one setting varied. A picture is chosen, or varied around; they fill in
 * one by one and can be stopped.
 */
export function ProofSheet() {
  const [wish, setWish] = useState<Wish>(FIRST);
  const [shot, setShot] = useState("");
  const plan = usePlan(wish);
  const [follows, setFollows] = useFollows();
  const { made, running, stop } = usePictures(plan, shot, follows);
  if (plan === null)
    return (
      <SheetBox title="Proof sheet">
        <p>
          Choose an entry of the land or a sowing first; then one of its settings is varied here.
        </p>
      </SheetBox>
    );
  if (!plan) return <SheetBox title="Proof sheet">Looking what may be varied…</SheetBox>;
  const choice = plan.choices[plan.setting];
  const take = (value: number) => {
    set({ dialog: null });
    if (value === plan.now) return;
    const label = `${plan.owner}: ${choice.label.toLowerCase()} from the proof sheet`;
    void edit(label, (d) => put(d, choice.path, value));
  };
  const alike =
    made.length === plan.values.length && made.every((m) => m.unlike === null || m.unlike < HARDLY);
  return (
    <SheetBox title={`Proof sheet: ${plan.owner}`} wide={1040}>
      <ProofHead
        plan={plan}
        wish={wish}
        onWish={setWish}
        shot={shot}
        onShot={setShot}
        running={running}
        made={made.filter((m) => m.followed === (follows && !!shot)).length}
        follows={follows}
        onFollows={setFollows}
        onStop={stop}
      />
      {alike && (
        <p className="mb-1 text-rust" data-alike>
          These hardly differ: {choice.label.toLowerCase()} changes little here. Vary another
          setting, or look from a shot.
        </p>
      )}
      <div
        className="grid grid-cols-4 gap-2"
        data-proofs={made.length}
        data-followed={made.filter((m) => m.followed).length}
      >
        {plan.values.map((_value, i) => (
          <Picture
            key={i}
            made={made[i]}
            running={running}
            plan={plan}
            onTake={take}
            onAround={(middle) => setWish({ ...wish, middle, spread: wish.spread * 0.45 })}
          />
        ))}
      </div>
    </SheetBox>
  );
}

function ProofHead({
  plan,
  wish,
  onWish,
  shot,
  onShot,
  running,
  made,
  follows,
  onFollows,
  onStop,
}: {
  plan: ProofPlan;
  wish: Wish;
  onWish: (wish: Wish) => void;
  shot: string;
  onShot: (shot: string) => void;
  running: boolean;
  made: number;
  follows: boolean;
  onFollows: (follows: boolean) => void;
  onStop: () => void;
}) {
  const shots = usePage((s) => s.doc!.shots);
  const seed = plan.choices[plan.setting].seed;
  const wider = () => onWish({ ...wish, middle: null, spread: Math.min(1, wish.spread * 2) });
  return (
    <div className="mb-2 flex flex-wrap items-center gap-3">
      <label>
        Vary{" "}
        <select
          className="text"
          aria-label="Setting to vary"
          value={plan.setting}
          onChange={(e) => onWish({ ...FIRST, setting: +e.target.value })}
        >
          {plan.choices.map((c, i) => (
            <option key={c.label} value={i}>
              {c.label}
            </option>
          ))}
        </select>
      </label>
      <label>
        seen from{" "}
        <ShotChoice
          label="Seen from"
          shots={shots}
          value={shot}
          choose={onShot}
          before={{ "": "above", view: "the view as it is" }}
        />
      </label>
      <Follows follows={follows} onFollows={onFollows} able={!!shot} />
      {seed ? (
        <button className="btn" onClick={() => onWish({ ...wish, turn: wish.turn + 1 })}>
          Twelve others
        </button>
      ) : (
        <button className="btn" onClick={wider}>
          Wider
        </button>
      )}
      {running && (
        <button className="btn" data-stop-proof onClick={onStop}>
          Stop
        </button>
      )}
      <span className="text-soft">
        {running ? `${made} of ${plan.values.length}` : "Take one, or vary around it."}
      </span>
    </div>
  );
}

function Picture({
  made,
  running,
  plan,
  onTake,
  onAround,
}: {
  made: Made | undefined;
  running: boolean;
  plan: ProofPlan;
  onTake: (value: number) => void;
  onAround: (value: number) => void;
}) {
  const choice = plan.choices[plan.setting];
  const now = made?.value === plan.now;
  return (
    <div className={`border p-[3px] ${now ? "border-moss bg-paper2" : "border-rule"}`}>
      {made?.url ? (
        <button
          className="block w-full"
          aria-label={`Take ${choice.label} ${made.value}`}
          onClick={() => onTake(made.value)}
        >
          <img src={made.url} alt="" className="h-[156px] w-full object-cover" />
        </button>
      ) : (
        <div className="grid h-[156px] place-items-center text-soft">
          {made ? "can't be built" : running ? "…" : ""}
        </div>
      )}
      <div className="flex justify-between text-[11.5px]">
        <span>
          {made ? `${shown(made.value)} ${choice.unit}` : " "}
          {now ? " · as now" : ""}
        </span>
        {made?.url && !choice.seed && (
          <button className="underline" onClick={() => onAround(made.value)}>
            vary around
          </button>
        )}
      </div>
    </div>
  );
}
