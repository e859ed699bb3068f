import { Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import { doWork } from "../actions/work";
import * as calls from "../api/calls";
import { Trouble } from "../api/client";
import type { KeptMix, MixAnswer, PresetLine } from "../api/shapes";
import { Follows, useFollows } from "../controls/Follows";
import { SheetBox } from "../controls/SheetBox";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";

interface Made extends MixAnswer {
  url: string;
}

/** The ready mixes measured on this land, all of them before the first picture is drawn. */
function useMixesHere(follows: boolean) {
  const [list, setList] = useState<PresetLine[]>([]);
  const [made, setMade] = useState<Record<string, Made>>({});
  useEffect(() => {
    const halt = new AbortController();
    const urls: string[] = [];
    const scene = get().id!;
    const document = get().doc;
    const answers: [string, MixAnswer][] = [];
    const draw = async (name: string, answer: MixAnswer, followed: boolean) => {
      const { sowings, marks } = answer;
      const asked = { document, sowings, marks, followed };
      const seen = await calls.drawMix(scene, asked, halt.signal);
      if (halt.signal.aborted) return;
      const url = URL.createObjectURL(seen);
      urls.push(url);
      setMade((now) => ({ ...now, [name]: { ...answer, url } }));
    };
    void (async () => {
      try {
        const all = await calls.listMixes();
        setList(all);
        for (const m of all) {
          const answer = await calls.mixHere(scene, m.name, { document }, halt.signal);
          if (halt.signal.aborted) return;
          setMade((now) => ({ ...now, [m.name]: { ...answer, url: "" } }));
          answers.push([m.name, answer]);
        }
        for (const [name, answer] of answers) await draw(name, answer, false);
        for (const [name, answer] of follows ? answers : []) await draw(name, answer, true);
      } catch (e) {
        if (!halt.signal.aborted) {
          tell(e);
          if (e instanceof Trouble) set({ dialog: null });
        }
      }
    })();
    return () => {
      halt.abort();
      setTimeout(() => urls.forEach((u) => URL.revokeObjectURL(u)), 1000);
    };
  }, [follows]);
  return { list, made };
}

/** Ready mixes, each as it stands on this land and with the number that it brings. */
export function ReadyMixes() {
  const [follows, setFollows] = useFollows();
  const { list, made } = useMixesHere(follows);
  const [kept, setKept] = useState<KeptMix[]>([]);
  useEffect(() => {
    calls.listKeptMixes().then(setKept).catch(tell);
  }, []);
  const take = async (label: string, mix: object) => {
    const done = await doWork("take a mix", { mix: { format: "sow-mix-1", ...mix }, label });
    if (done) set({ dialog: null, open: "planting" });
  };
  /** A ready mix may be taken before its turn: it is measured then. */
  const takeReady = async ({ name, label }: PresetLine) => {
    try {
      const { id, doc } = get();
      const answer = made[name] ?? (await calls.mixHere(id!, name, { document: doc }));
      const { sowings, marks, told, plants } = answer;
      await take(label, { sowings, marks, told, plants });
    } catch (e) {
      tell(e);
    }
  };
  const fromFile = async (file: File) => {
    try {
      const mix = JSON.parse(await file.text()) as { name?: string };
      const done = await doWork("take a mix", { mix, label: mix.name ?? file.name });
      if (done) set({ dialog: null, open: "planting" });
    } catch {
      tell(new Error(`“${file.name}” is not a planting mix: it is no JSON. Nothing was changed.`));
    }
  };
  return (
    <SheetBox title="Planting mixes for this land" wide={900}>
      <div className="mb-2 flex items-center justify-between gap-3">
        <span className="text-soft">
          Their bands come from this land's own slopes, heights and wetness. Taking one adds its
          sowings as a group; each may be changed afterwards.
        </span>
        <Follows follows={follows} onFollows={setFollows} />
        <label className="btn cursor-pointer whitespace-nowrap">
          From a file…
          <input
            type="file"
            accept=".json"
            className="hidden"
            aria-label="Planting mix from a file"
            onChange={(e) => {
              const f = e.target.files?.[0];
              if (f) void fromFile(f);
              e.target.value = "";
            }}
          />
        </label>
      </div>
      {kept.length > 0 && (
        <div className="mb-2 flex flex-wrap gap-1" data-kept-mixes={kept.length}>
          {kept.map((m) => (
            <span
              key={m.drawer + m.id}
              className="inline-flex items-center border border-rule bg-[#fffdf7]"
            >
              <button
                className="px-2 py-[2px] hover:bg-paper2"
                data-kept-mix={m.name}
                onClick={() =>
                  take(m.name, { sowings: m.sowings, marks: m.marks, told: [], plants: [] })
                }
              >
                <b>{m.name}</b>{" "}
                <span className="text-soft">
                  {m.drawer} drawer, {m.sowings.length} sowing{m.sowings.length > 1 ? "s" : ""}
                </span>
              </button>
              <button
                className="icon"
                aria-label={`Take ${m.name} out of the ${m.drawer} drawer`}
                onClick={() =>
                  void calls
                    .deleteMix(m.drawer, m.id)
                    .then(() => setKept((k) => k.filter((x) => x !== m)))
                    .catch(tell)
                }
              >
                <Trash2 size={12} />
              </button>
            </span>
          ))}
        </div>
      )}
      <div className="grid grid-cols-3 gap-2" data-mixes={Object.keys(made).length}>
        {list.map((m) => (
          <MixCard key={m.name} preset={m} made={made[m.name]} onTake={() => takeReady(m)} />
        ))}
      </div>
    </SheetBox>
  );
}

function MixCard({
  preset,
  made,
  onTake,
}: {
  preset: PresetLine;
  made: Made | undefined;
  onTake: () => Promise<void>;
}) {
  const [taking, setTaking] = useState(false);
  const count = made && made.plants.reduce((sum, n) => sum + n, 0).toLocaleString("en");
  return (
    <button
      className="flex flex-col border border-rule p-[3px] text-left hover:bg-paper2"
      data-take-mix={preset.name}
      disabled={taking}
      onClick={() => {
        setTaking(true);
        void onTake().finally(() => setTaking(false));
      }}
    >
      {made?.url ? (
        <img src={made.url} alt="" className="h-[112px] w-full object-cover" />
      ) : (
        <div className="grid h-[112px] w-full place-items-center bg-[#e6dfce] text-soft">
          {made ? "drawing…" : "measuring…"}
        </div>
      )}
      <span>
        <b className="font-show">{preset.label}</b> <span className="text-soft">{preset.help}</span>
      </span>
      <span className="block text-[11.5px] leading-tight text-soft">
        {made && [`${count} plants`, ...made.told].join("; ")}
      </span>
    </button>
  );
}
