import { addEntry } from "../actions/work";
import * as urls from "../api/urls";
import { AddMenu } from "../controls/AddMenu";
import { useOffers } from "../state/offers";

/** The menu of what a list offers; its lines, groups and pictures come from the server. */
export function AddEntry({ list, label }: { list: string; label: string }) {
  const offers = useOffers(list);
  return (
    <AddMenu
      label={label}
      items={offers.map((o) => ({
        key: o.key,
        label: o.label,
        note: o.note,
        group: o.group,
        picture: o.pictured ? urls.offerPicture(list, o.key) : undefined,
      }))}
      onPick={(key) => void addEntry(list, key)}
    />
  );
}
