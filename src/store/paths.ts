import path from 'node:path';

/** Folder of the program: where migrations, samples and worker bundles lie. */
export const homeDir = (): string => path.resolve(process.env.BELLOWS_HOME ?? '.');
/** Folder of everything the application keeps; BELLOWS_DATA moves it. */
export const dataDir = (): string =>
  process.env.BELLOWS_DATA ? path.resolve(process.env.BELLOWS_DATA) : path.join(homeDir(), 'data');

export const databasePath = () => path.join(dataDir(), 'bellows.db');
export const meshDir = () => path.join(dataDir(), 'meshes');
export const mapsDir = () => path.join(dataDir(), 'maps');
export const meshPath = (hash: string) => path.join(meshDir(), `${hash}.mesh`);
export const importDir = () => path.join(dataDir(), 'imports');
export const importPath = (id: string) => path.join(importDir(), id);
export const phaseDir = () => path.join(dataDir(), 'phases');
export const runsDir = () => path.join(dataDir(), 'runs');
export const runDir = (id: string) => path.join(runsDir(), id);
export const workerPath = (name: string) => path.join(homeDir(), 'dist', 'workers', `${name}.worker.mjs`);
