CREATE TABLE `job_files` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`job_id` text NOT NULL,
	`name` text NOT NULL,
	`type` text NOT NULL,
	`bytes` integer NOT NULL,
	`sha256` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `job_files_by_job` ON `job_files` (`job_id`);--> statement-breakpoint
ALTER TABLE `jobs` ADD `task` text DEFAULT 'write' NOT NULL;