ALTER TABLE `parts` RENAME TO `geometries`;
--> statement-breakpoint
UPDATE `variants` SET `inputs` = json_set(json_remove(`inputs`, '$.part'),
  '$.bodies', CASE WHEN json_extract(`inputs`, '$.part') IS NULL THEN json('[]') ELSE json_array(json_object(
    'id', 'B1', 'name', (SELECT `name` FROM `geometries` WHERE `hash` = json_extract(`inputs`, '$.part')), 'colour', NULL,
    'role', 'cavity', 'mesh', json_extract(`inputs`, '$.part'), 'original', NULL, 'standIn', NULL)) END,
  '$.tool', json('{"placement":[1,0,0,0,0,1,0,0,0,0,1,0],"partingHeight":null}'),
  '$.rules', json('{}'), '$.axes', json('[]'));
--> statement-breakpoint
UPDATE `runs` SET `inputs` = json_set(json_remove(`inputs`, '$.part'),
  '$.bodies', CASE WHEN json_extract(`inputs`, '$.part') IS NULL THEN json('[]') ELSE json_array(json_object(
    'id', 'B1', 'name', (SELECT `name` FROM `geometries` WHERE `hash` = json_extract(`inputs`, '$.part')), 'colour', NULL,
    'role', 'cavity', 'mesh', json_extract(`inputs`, '$.part'), 'original', NULL, 'standIn', NULL)) END,
  '$.tool', json('{"placement":[1,0,0,0,0,1,0,0,0,0,1,0],"partingHeight":null}'),
  '$.rules', json('{}'), '$.axes', json('[]'));
--> statement-breakpoint
UPDATE `geometries` SET `findings` = json('[]');
--> statement-breakpoint
ALTER TABLE `geometries` DROP COLUMN `name`;
--> statement-breakpoint
ALTER TABLE `geometries` DROP COLUMN `unit`;
--> statement-breakpoint
ALTER TABLE `geometries` DROP COLUMN `size`;
