import type { LaidFeed } from '../feed/layout';
import type { TriangleMesh } from '../geometry/mesh';
import { chargeOf } from '../model/compression';
import type { Inputs } from '../model/study';
import { meshWithCopies, withCopies } from './copies';
import { feedOf, solvedOnce } from './feedOf';
import { partSize, resolveSettings, type FillSettings } from './settings';

/** A study as a run reads it, derived once at its head: nothing is laid out, placed or looked up again on the way. */
export interface Resolved {
  /** Surface of the cavities that are solved: with all copies, unless one stands for them. */
  mesh: TriangleMesh;
  /** The study of those: copies that are solved one by one have gates, vents and tabs of their own. */
  inputs: Inputs;
  settings: FillSettings;
  /** Runners and tabs; null where the melt comes straight to the gates. */
  feed: LaidFeed | null;
}

/** A study that has passed its checks, with the surface of its cavities. @throws Error when its materials are unknown. */
export function resolve(cavity: TriangleMesh, study: Inputs): Resolved {
  const apart = study.cavities !== undefined && !solvedOnce(study);
  const mesh = apart ? meshWithCopies(cavity, study) : cavity;
  const placed = apart ? withCopies(study) : study;
  // Melt that is laid in comes through no gate.
  const inputs = chargeOf(placed.compression) ? { ...placed, gates: [], feed: null } : placed;
  const settings = resolveSettings(inputs, partSize(mesh));
  const feed = inputs.feed || inputs.tabs?.length ? feedOf(inputs, settings.meltTemperature) : null;
  return { mesh, inputs, settings, feed };
}
