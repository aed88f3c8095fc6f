declare module "jstat" {
  const jstat: { studentt: { inv: (p: number, freedom: number) => number } };
  export default jstat;
}
