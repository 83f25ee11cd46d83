/** Sizes that sky and ground share, in pixels: the names at the left, a lane's height, the times' height. */
export const LABEL = 172
export const LANE = 34
export const RULER = 30
/** How far below the top the first lane lies. */
export const ABOVE = RULER + 4
