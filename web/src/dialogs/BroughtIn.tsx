import { bringInScene } from "../actions/bringIn";
import { SheetBox } from "../controls/SheetBox";
import { set, usePage } from "../state/store";

const OWN = "The scene itself";

/** What came in with a scene's file, and what did not. */
export function BroughtIn() {
  const found = usePage((s) => s.broughtIn);
  if (!found) return null;
  const leave = () => set({ dialog: null, broughtIn: null });
  const whole = found.taken.some((t) => t.startsWith(OWN)) && !/\.zip$/i.test(found.file.name);
  return (
    <SheetBox title={`“${found.scene.name}” was brought in`} onLeave={leave}>
      <Lines title="Taken" lines={found.taken} />
      <Lines title="Left where it was" lines={found.left} />
      {whole && (
        <p className="mt-2 text-soft">
          The file carries the scene that it was written from. If it was changed elsewhere since,
          read what stands in it instead.
        </p>
      )}
      <div className="mt-3 flex justify-end gap-2">
        {whole && (
          <button
            className="btn"
            data-read-measured
            onClick={() => {
              leave();
              void bringInScene(found.file, true);
            }}
          >
            Read what stands in it
          </button>
        )}
        <button className="btn do" autoFocus onClick={leave}>
          Done
        </button>
      </div>
    </SheetBox>
  );
}

function Lines({ title, lines }: { title: string; lines: string[] }) {
  if (!lines.length) return null;
  return (
    <section className="mb-2" data-told={title}>
      <b>{title}</b>
      <ul className="ml-4 max-h-[24vh] list-disc overflow-auto">
        {lines.map((line, i) => (
          <li key={i}>{line}</li>
        ))}
      </ul>
    </section>
  );
}
