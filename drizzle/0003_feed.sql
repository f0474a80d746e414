UPDATE `variants` SET `inputs` = json_set(`inputs`, '$.feed', NULL);
--> statement-breakpoint
UPDATE `runs` SET `inputs` = json_set(`inputs`, '$.feed', NULL);
