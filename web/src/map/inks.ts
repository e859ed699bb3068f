export const PAPER = [232, 224, 205];

export const SLATE = [36, 64, 78];
