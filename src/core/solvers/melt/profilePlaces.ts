/** Places through half the wall at which what layers have is published: 0 middle .. 1 wall. */
export const PROFILE_PLACES = Array.from({ length: 9 }, (_, k) => 1 - (1 - k / 8) ** 1.5);
