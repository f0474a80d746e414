ALTER TABLE `variants` ADD `note` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `variants` ADD `starred` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `variants` ADD `colour` text;