export const STRIP_HEIGHT = 150;
