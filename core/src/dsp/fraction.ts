/**
 * Nothing, as a number that may have a fraction. JavaScript engines note of each field whether it has only
 * held whole numbers. The first fraction gives all objects of the class another shape, and all code compiled
 * for the old one is thrown away, in the middle of playing. So what will hold fractions begins with this.
 */
export const FRACTION = -0
