/** A bag that holds what several designs share, and the one for what lies beside the designs. */
export const TOGETHER = "together";
export const BESIDE = "beside";
