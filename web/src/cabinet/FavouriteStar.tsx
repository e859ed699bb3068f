import { Star } from "lucide-react";
import * as calls from "../api/calls";
import type { KindLine } from "../api/shapes";
import { set } from "../state/store";
import { tell } from "../state/trouble";

export function FavouriteStar({ kind }: { kind: KindLine }) {
  const flip = () => {
    void calls
      .setFavourite({ kind: kind.name, on: !kind.favourite })
      .then(() =>
        set((s) => ({
          cabinet: {
            ...s.cabinet!,
            kinds: s.cabinet!.kinds.map((k) =>
              k.name === kind.name ? { ...k, favourite: !kind.favourite } : k,
            ),
          },
        })),
      )
      .catch(tell);
  };
  return (
    <button
      className="icon absolute top-[1px] right-[1px]"
      aria-label={`${kind.label}: favourite`}
      aria-pressed={kind.favourite}
      data-star={kind.name}
      onClick={flip}
    >
      <Star
        size={13}
        fill={kind.favourite ? "#b9812a" : "none"}
        stroke={kind.favourite ? "#b9812a" : "currentColor"}
      />
    </button>
  );
}
