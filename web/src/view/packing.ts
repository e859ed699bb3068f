/** How one float of a plant's row holds its kind and its variant. */
import { VARIANTS } from "../api/numbers";

/** The index of a plant's kind in its sowing's mix. */
export const kindOf = (code: number) => Math.floor(code / VARIANTS);

/** Which variant of its kind a plant is. */
export const variantOf = (code: number) => code % VARIANTS;
