export const TRANSECT_HEIGHT = 150;
