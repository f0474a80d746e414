import { exportProject } from '@/server/exportStudy';
import { archive } from '../../../archive';

/** A project as its variants with their surfaces. */
export const GET = archive(exportProject);
