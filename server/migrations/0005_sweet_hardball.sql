CREATE TABLE `found_causes` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`family_id` text NOT NULL,
	`job_id` text NOT NULL,
	`cause` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `found_causes_by_family` ON `found_causes` (`family_id`);