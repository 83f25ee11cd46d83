/** Sizes that sky and ground share, in pixels: the names at the left, a lane's height, the times' height. */
export const LABEL = 172
export const LANE = 34
export const RULER = 30
