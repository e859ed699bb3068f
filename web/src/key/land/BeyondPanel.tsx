import { Fold } from "../../controls/Fold";
import { mapFarLand } from "../../actions/farLand";
import { Settings } from "../../settings/Settings";
import { usePage } from "../../state/store";
import { EntryList } from "../EntryList";

function OnTheMap() {
  return (
    <button className="btn" title="The map, zoomed out to the far land" onClick={mapFarLand}>
      On the map
    </button>
  );
}

/** How the land goes on beyond the plot, with the far land's own entries. */
export function BeyondPanel() {
  const beyond = usePage((s) => s.doc!.beyond);
  const schema = usePage((s) => s.catalogue!.scene);
  const note =
    `${beyond.edge === "run on" ? "runs on" : beyond.edge}` +
    `${beyond.land!.length ? `, ${beyond.land!.length} of its own` : ""}`;
  return (
    <Fold title="Beyond the plot" note={note}>
      <Settings path={["beyond"]} model={schema.$defs.Beyond} owner="Beyond the plot" />
      {(beyond.edge === "run on" || beyond.edge === "rise") && (
        <div className="mt-1">
          <div className="text-soft">
            {beyond.land!.length
              ? "Far land, in the order in which it acts"
              : "The plot's own land runs on. Add far land to put other land there."}
          </div>
          <EntryList list="far" add="far land" more={<OnTheMap />} />
        </div>
      )}
      {beyond.edge !== "end" && (
        <div className="mt-1">
          <div className="text-soft">
            {beyond.ground!.length
              ? "What clothes it, from below upward"
              : "The plot's materials clothe it by their rules. Add materials of its own to " +
                "clothe it otherwise."}
          </div>
          <EntryList list="far ground" add="far material" />
        </div>
      )}
    </Fold>
  );
}
