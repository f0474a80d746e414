UPDATE `variants` SET `inputs` = replace(`inputs`, '"role":"second-shot"', '"role":"left-out"') WHERE `inputs` LIKE '%"role":"second-shot"%';
--> statement-breakpoint
UPDATE `variants` SET `inputs` = json_set(`inputs`, '$.inserts', (SELECT json_group_array(json_object('id', json_extract(value, '$.body'), 'material', json_object('id', 'typed', 'name', 'Insert', 'supplier', '', 'origin', 'typed in', 'kind', 'metal', 'density', 7850, 'specificHeat', 480, 'conductivity', 48, 'modulus', max(1, json_extract(value, '$.young')), 'poisson', json_extract(value, '$.poisson'), 'expansion', json_extract(value, '$.expansion')), 'temperature', NULL, 'contact', 'bonded', 'held', json('[]'))) FROM json_each(`inputs`, '$.warpage.inserts'))) WHERE json_array_length(`inputs`, '$.warpage.inserts') > 0;
--> statement-breakpoint
UPDATE `variants` SET `inputs` = json_remove(`inputs`, '$.warpage.inserts');
--> statement-breakpoint
UPDATE `runs` SET `inputs` = replace(`inputs`, '"role":"second-shot"', '"role":"left-out"') WHERE `inputs` LIKE '%"role":"second-shot"%';
--> statement-breakpoint
UPDATE `runs` SET `inputs` = json_set(`inputs`, '$.inserts', (SELECT json_group_array(json_object('id', json_extract(value, '$.body'), 'material', json_object('id', 'typed', 'name', 'Insert', 'supplier', '', 'origin', 'typed in', 'kind', 'metal', 'density', 7850, 'specificHeat', 480, 'conductivity', 48, 'modulus', max(1, json_extract(value, '$.young')), 'poisson', json_extract(value, '$.poisson'), 'expansion', json_extract(value, '$.expansion')), 'temperature', NULL, 'contact', 'bonded', 'held', json('[]'))) FROM json_each(`inputs`, '$.warpage.inserts'))) WHERE json_array_length(`inputs`, '$.warpage.inserts') > 0;
--> statement-breakpoint
UPDATE `runs` SET `inputs` = json_remove(`inputs`, '$.warpage.inserts');
