import { find } from "../document/lists";
import { get } from "./store";

export const chosen = () => find(get().doc, get().chosen);
