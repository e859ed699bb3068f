import * as calls from "../../api/calls";
import { saveFile } from "../../api/client";
import type { Sowing } from "../../api/shapes";
import { get, set } from "../../state/store";
import { tell } from "../../state/trouble";

/** Saves the sowings of a group, or one sowing, into a drawer or as a file. */
export function SaveMix({ entry }: { entry: Sowing }) {
  const name = entry.group || entry.name;
  const asked = { document: get().doc, sowing: entry.id };
  const save = () =>
    void calls
      .mixFile(get().id!, asked)
      .then((file) => saveFile(file, `${name.toLowerCase().replace(/[^a-z0-9]+/g, "-")}.mix.json`))
      .catch(tell);
  const into = (drawer: "own" | "shared") =>
    void calls
      .keepMix(get().id!, { ...asked, drawer })
      .then(() =>
        set({
          told: `“${name}” lies in the ${drawer} drawer; it is found among the planting mixes (X).`,
        }),
      )
      .catch(tell);
  return (
    <div className="mt-1 flex flex-wrap items-center gap-1 border-t border-rule/70 pt-1">
      <span className="text-soft">{entry.group ? `“${entry.group}”` : "It"} as a mix</span>
      <button className="btn" data-keep-mix onClick={() => into("own")}>
        own drawer
      </button>
      <button
        className="btn"
        data-share-mix
        title="A folder that a team may share"
        onClick={() => into("shared")}
      >
        shared drawer
      </button>
      <button className="btn" data-save-mix onClick={save}>
        file
      </button>
    </div>
  );
}
