import { describe, expect, it } from 'vitest';
import { FIELD_TABLE } from '../fields/table';
import { CYCLE_NUMBERS } from '../model/parameters';
import { WAY_NUMBERS } from '../model/wayNumbers';
import { CONSTANTS } from '../material/constants';
import { DESIGN_RULES } from '../partmaps/rules';
import { helpOfConstant } from './constantHelp';
import { fieldHelp } from './fieldHelp';
import { fieldHelpId, HELP, helpFound, inputHelpId, ruleHelpId, withTerms } from './help';

const SENTENCES = /^[A-ZÄÖÜ“].*[.)]$/;

describe('help', () => {
  it('has every field of a list, and none that is drawn alone', () => {
    for (const [id, { group }] of Object.entries(FIELD_TABLE))
      expect(fieldHelp(id) !== null, id).toBe(group !== 'drawn');
    expect(fieldHelp('gateShare-7')).not.toBeNull();
    expect(fieldHelp('nothing')).toBeNull();
  });

  it('has every input', () => {
    const there = new Set(HELP.map((e) => e.id));
    for (const p of [...Object.values(CYCLE_NUMBERS), ...Object.values(WAY_NUMBERS)])
      expect(there.has(inputHelpId(p)), p.label).toBe(true);
    // Another name in a single form, or other limits, is still the same input.
    expect(there.has(inputHelpId({ ...WAY_NUMBERS.fibreInteraction }))).toBe(true);
    expect(there.has(fieldHelpId('gateShare-3'))).toBe(true);
  });

  it('has every constant of every kind of material, and every rule of good design', () => {
    const there = new Map(HELP.map((e) => [e.id, e]));
    for (const groups of Object.values(CONSTANTS))
      for (const { title, constants } of groups)
        for (const { label, path } of constants)
          expect(there.get(helpOfConstant(label, title))?.means, path).toBeTruthy();
    for (const { label, why } of Object.values(DESIGN_RULES)) expect(there.get(ruleHelpId(label))?.use).toBe(why);
    expect(there.get(helpOfConstant('tau*', 'Viscosity, Cross-WLF'))?.formula).toContain('τ*');
  });

  it('calls no two things by one name, and says whole sentences', () => {
    expect(new Set(HELP.map((e) => e.id)).size).toBe(HELP.length);
    for (const { id, means, use } of HELP) {
      expect(means, id).toMatch(SENTENCES);
      if (use !== undefined) expect(use, id).toMatch(SENTENCES);
    }
  });
});

describe('looking up', () => {
  it('finds names first, then texts', () => {
    expect(helpFound('gate')[0].title).toBe('Gate');
    expect(helpFound('weld')[0].title).toBe('Weld line');
    expect(helpFound('sink depth')[0].id).toBe('field:sinkDepth');
    // Named in no title: in the text of what helps.
    expect(helpFound('flashes').map((e) => e.id)).toEqual([inputHelpId(WAY_NUMBERS.switchoverShare)]);
    expect(helpFound('')).toHaveLength(HELP.length);
    expect(helpFound('unheard-of')).toEqual([]);
  });
});

describe('terms in a text', () => {
  it('are each linked at their first place, the longest form first', () => {
    expect(withTerms('A weld line near the gate; the gates and Weld Lines.')).toEqual([
      { text: 'A ' },
      { text: 'weld line', id: 'term:weld line' },
      { text: ' near the ' },
      { text: 'gate', id: 'term:gate' },
      { text: '; the gates and Weld Lines.' },
    ]);
  });

  it('are not found inside other words, nor in what explains them', () => {
    expect(withTerms('Gateway, invented.')).toEqual([{ text: 'Gateway, invented.' }]);
    expect(withTerms('A gate.', 'term:gate')).toEqual([{ text: 'A gate.' }]);
    expect(withTerms('')).toEqual([]);
  });

  it('lose no letter', () => {
    for (const { means, use = '' } of HELP)
      expect(
        withTerms(means + use)
          .map((p) => p.text)
          .join(''),
      ).toBe(means + use);
  });
});
