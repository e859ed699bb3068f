import { useState } from "react";
import type { Entry } from "../document/entry";
import { type ListName, listOf } from "../document/lists";
import { usePage } from "../state/store";
import { AddEntry } from "./AddEntry";
import { EntryRow } from "./EntryRow";
import { GroupRow } from "./GroupRow";

/** Entries that stand together under one group, with their places in the list. */
interface Run {
  group: string;
  entries: { entry: Entry; index: number }[];
}

/** The list as runs of entries of one group; those of none are runs of their own. */
function runsOf(entries: Entry[]): Run[] {
  const runs: Run[] = [];
  entries.forEach((entry, index) => {
    const group = entry.group ?? "";
    const last = runs[runs.length - 1];
    if (group && last?.group === group) last.entries.push({ entry, index });
    else runs.push({ group, entries: [{ entry, index }] });
  });
  return runs;
}

/** The entries of a list as a numbered legend, with what adds to it. */
export function EntryList({
  list,
  empty,
  add,
  more,
}: {
  list: ListName;
  empty?: string;
  add?: string;
  more?: React.ReactNode;
}) {
  const entries = usePage((s) => listOf(s.doc!, list));
  const [folded, setFolded] = useState<Set<string>>(new Set());
  const fold = (group: string) =>
    setFolded((now) => {
      const next = new Set(now);
      if (!next.delete(group)) next.add(group);
      return next;
    });
  return (
    <div>
      {!entries.length && empty && <p className="mb-1 text-soft">{empty}</p>}
      {runsOf(entries).map(({ group, entries: own }) => (
        <div key={own[0].entry.id}>
          {group && (
            <GroupRow
              list={list}
              group={group}
              entries={own.map((x) => x.entry)}
              folded={folded.has(group)}
              onFold={() => fold(group)}
            />
          )}
          {!(group && folded.has(group)) &&
            own.map(({ entry, index }) => (
              <EntryRow key={entry.id} list={list} index={index} entry={entry} />
            ))}
        </div>
      ))}
      <div className="mt-1 flex flex-wrap gap-1">
        {add && <AddEntry list={list} label={add} />}
        {more}
      </div>
    </div>
  );
}
