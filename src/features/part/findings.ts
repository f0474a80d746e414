import { CircleAlert, CircleX, Info } from 'lucide-react';
import type { Severity } from '@/core/geometry/finding';

/** How each severity looks: never by colour alone. */
export const SEVERITY_LOOK: Record<Severity, { label: string; Icon: typeof Info; colour: string }> = {
  blocks: { label: 'Blocks a run', Icon: CircleX, colour: 'text-problem' },
  misleads: { label: 'May mislead', Icon: CircleAlert, colour: 'text-watch' },
  cosmetic: { label: 'Cosmetic', Icon: Info, colour: 'text-soft' },
};
