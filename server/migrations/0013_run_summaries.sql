CREATE TABLE `run_summaries` (
	`run_id` text PRIMARY KEY NOT NULL,
	`hash` text NOT NULL,
	`mark` text NOT NULL,
	`state` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `wake_of_run_by_type` ON `wake_events` (`run_id`,`type`);