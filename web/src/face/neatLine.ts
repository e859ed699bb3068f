export const TOP = 21;

export const LEFT = 34;

export const INSET = { width: 222, height: 158, left: 14, bottom: 14 };
