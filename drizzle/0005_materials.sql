CREATE TABLE `materials` (
	`id` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`material` text NOT NULL,
	`created_at` integer NOT NULL,
	`changed_at` integer NOT NULL
);
