declare module "jstat" {
  const jstat: {
    studentt: { inv: (p: number, freedom: number) => number };
    normal: {
      inv: (p: number, mean: number, sd: number) => number;
      cdf: (x: number, mean: number, sd: number) => number;
    };
  };
  export default jstat;
}
