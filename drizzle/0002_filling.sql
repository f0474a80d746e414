UPDATE `variants` SET `inputs` = json_set(`inputs`,
  '$.cycle.lowerMouldTemperature', NULL, '$.cycle.machine', NULL, '$.cycle.switchover', json('{"by":"automatic"}'),
  '$.cycle.packingPressure', NULL, '$.cycle.wallTransfer', NULL, '$.cycle.venting', 'parting-line',
  '$.probes', json('[]'), '$.noGate', json('[]'));
--> statement-breakpoint
UPDATE `runs` SET `inputs` = json_set(`inputs`,
  '$.cycle.lowerMouldTemperature', NULL, '$.cycle.machine', NULL, '$.cycle.switchover', json('{"by":"automatic"}'),
  '$.cycle.packingPressure', NULL, '$.cycle.wallTransfer', NULL, '$.cycle.venting', 'parting-line',
  '$.probes', json('[]'), '$.noGate', json('[]'));
