import {
  Camera,
  Clock,
  CircleHelp,
  Crosshair,
  Eye,
  Focus,
  Frame,
  Image,
  Map as MapIcon,
  Maximize,
  Minus,
  Mountain,
  MountainSnow,
  PersonStanding,
  Wind,
} from "lucide-react";
import { engine } from "../../state/engine";
import { toggleHidden } from "../../state/hiding";
import { chosen } from "../../state/selection";
import { get, set } from "../../state/store";
import { LAND } from "../../view/view";
import { goToChosen, keepShot, levelHorizon, overview, showAlone, standOnGround } from "../camera";
import { mapFarLand } from "../farLand";
import { closeTime, openTime } from "../time";
import { shotAtHand, stepInto, stepOut } from "../shots";

import type { Action } from "./action";

/** The view and the map: where the eye stands, what it sees, the shots it keeps. */
export const LOOKING: Action[] = [
  {
    id: "map",
    name: "Swap map and view",
    keys: "M",
    icon: MapIcon,
    run: () => set((s) => ({ mapOnFace: !s.mapOnFace })),
  },
  {
    id: "shot",
    name: "Keep this view as a shot",
    keys: "F",
    icon: Camera,
    can: () => !!get().products,
    run: keepShot,
  },
  {
    id: "still",
    name: "Take a still",
    keys: "Ctrl+P",
    icon: Image,
    can: () => !!get().products,
    run: () => set({ dialog: "still" }),
  },
  {
    id: "step",
    name: "Step into the shot, or back out",
    keys: "E",
    icon: Frame,
    can: () => !!get().products && (get().doc?.shots.length ?? 0) > 0,
    run: () => {
      const shot = shotAtHand();
      if (get().stepped) stepOut();
      else if (shot) stepInto(shot);
    },
  },
  {
    id: "frame-lines",
    name: "Lines of the frame, on or off",
    keys: "Shift+E",
    icon: Frame,
    can: () => !!get().stepped,
    run: () => set((s) => ({ frameLines: !s.frameLines })),
  },
  {
    id: "time",
    name: "Strip of time, unfolded or folded",
    keys: "Shift+T",
    icon: Clock,
    can: () => !!get().products && (get().doc?.shots.length ?? 0) > 0,
    run: () => (get().time ? closeTime() : openTime()),
  },
  {
    id: "goto",
    name: "Go to what is chosen",
    keys: "G",
    icon: Crosshair,
    can: () => !!get().products,
    run: goToChosen,
  },
  {
    id: "level",
    name: "Level the horizon",
    keys: "Shift+H",
    icon: Minus,
    can: () => !!get().products && !(get().stepped && !get().stepped!.free),
    run: levelHorizon,
  },
  {
    id: "stand-here",
    name: "Stand on the ground at eye height",
    keys: "Shift+G",
    icon: PersonStanding,
    can: () => !!get().products && !(get().stepped && !get().stepped!.free),
    run: standOnGround,
  },
  {
    id: "overview",
    name: "See the whole plot",
    keys: "O",
    icon: Maximize,
    can: () => !!get().products,
    run: overview,
  },
  {
    id: "fit-map",
    name: "Fit the map to the plot",
    keys: "Home",
    icon: Maximize,
    can: () => !!get().mapAt,
    run: () => set({ mapAt: null }),
  },
  {
    id: "far-map",
    name: "See the far land on the map",
    keys: "Shift+Home",
    icon: Mountain,
    can: () => !!get().products?.rings.length,
    run: mapFarLand,
  },
  {
    id: "alone",
    name: "Show what is chosen alone",
    keys: "I",
    icon: Focus,
    can: () => ["planting"].includes(chosen()?.list ?? "") || get().hidden.size > 0,
    run: () => showAlone(),
  },
  {
    id: "hide-land",
    name: "Hide the land in the view, or show it",
    keys: "Shift+L",
    icon: MountainSnow,
    can: () => !!get().products,
    run: () => toggleHidden(LAND),
  },
  {
    id: "play",
    name: "Let wind and waves move",
    keys: "Z",
    icon: Wind,
    can: () => !!get().products,
    run: () => {
      const on = !get().playing;
      set({ playing: on });
      engine.view?.play(on);
    },
  },
  {
    id: "clean",
    name: "Clean view",
    keys: "C",
    icon: Eye,
    run: () => set((s) => ({ clean: !s.clean })),
  },
  {
    id: "why",
    name: "Why here? Ask of the pinned place",
    keys: "Y",
    icon: CircleHelp,
    can: () => !!get().products,
    run: () => set((s) => ({ why: !s.why })),
  },
];
