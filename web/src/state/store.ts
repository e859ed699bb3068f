import { create } from "zustand";
import { firsts } from "./firsts";
import type { Page } from "./slices";

export const usePage = create<Page>(firsts);

export const set = usePage.setState;

export const get = usePage.getState;
