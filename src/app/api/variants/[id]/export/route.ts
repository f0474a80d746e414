import { exportStudy } from '@/server/exportStudy';
import { archive } from '../../../archive';

/** A variant as a study with its surfaces. */
export const GET = archive(exportStudy);
