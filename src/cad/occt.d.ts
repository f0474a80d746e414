declare module 'occt-import-js' {
  const load: () => Promise<unknown>;
  export default load;
}
