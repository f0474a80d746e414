import { SectionTitle } from '../ui/controls';
import { CycleNumberField } from './CycleNumberField';
import type { CycleProps } from './cycleProps';

/** From the end of packing, or of the pressure in the core, to the opening of the mould. */
export function CoolingTimeFields(block: CycleProps) {
  return (
    <>
      <SectionTitle>Cooling</SectionTitle>
      <div className="space-y-1.5">
        <CycleNumberField
          {...block}
          id="coolingTime"
          emptyHint="until ejectable"
          note={block.cycle.coolingTime === 0 ? 'The mould opens as soon as packing ends.' : null}
        />
        <CycleNumberField {...block} id="solidShare" />
        <CycleNumberField {...block} id="openTime" />
        <CycleNumberField {...block} id="detachedTransfer" />
      </div>
    </>
  );
}
