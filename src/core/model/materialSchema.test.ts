import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { z } from 'zod';
import { MATERIAL_FORMAT, MATERIAL_SCHEMAS } from './material';

/** JSON Schema of a material file: what docs/material.schema.json holds. */
const schema = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'Material file',
  oneOf: (['resin', 'metal', 'gas', 'coolant'] as const).map((kind) => ({
    type: 'object',
    required: ['format', 'version', 'kind', 'material'],
    additionalProperties: false,
    properties: {
      format: { const: MATERIAL_FORMAT },
      version: { const: 1 },
      kind: { const: kind },
      material: strip(z.toJSONSchema(MATERIAL_SCHEMAS[kind], { unrepresentable: 'any' })),
    },
  })),
};

function strip({ $schema: _, ...rest }: Record<string, unknown>): Record<string, unknown> {
  return rest;
}

it('the published schema of material files is that of the code', () => {
  const published: unknown = JSON.parse(readFileSync('docs/material.schema.json', 'utf8'));
  expect(published).toEqual(JSON.parse(JSON.stringify(schema)));
});
