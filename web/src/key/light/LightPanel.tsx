import { doWork } from "../../actions/work";
import { Settings } from "../../settings/Settings";
import { usePage } from "../../state/store";

/** Sun, sky and haze, with the ready lights before them. */
export function LightPanel() {
  const catalogue = usePage((s) => s.catalogue!);
  return (
    <div>
      <div className="mb-1 flex flex-wrap gap-1">
        {catalogue.lights.map((l) => (
          <button
            key={l.name}
            className="btn"
            onClick={() => void doWork("ready light", { name: l.name })}
          >
            {l.label}
          </button>
        ))}
      </div>
      <Settings path={["light"]} model={catalogue.scene.$defs.Light} owner="Light" />
    </div>
  );
}
