CREATE TABLE `calibration_cases` (
	`id` text PRIMARY KEY NOT NULL,
	`unit_id` text NOT NULL,
	`opened_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `case_events` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`case_id` text NOT NULL,
	`at` integer NOT NULL,
	`event` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `case_events_by_case` ON `case_events` (`case_id`);--> statement-breakpoint
CREATE TABLE `case_logs` (
	`id` text PRIMARY KEY NOT NULL,
	`case_id` text NOT NULL,
	`round` integer NOT NULL,
	`log_kind` text NOT NULL,
	`name` text NOT NULL,
	`sha256` text NOT NULL,
	`bytes` integer NOT NULL,
	`at` integer NOT NULL,
	`judged` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `case_logs_by_case` ON `case_logs` (`case_id`);--> statement-breakpoint
CREATE TABLE `case_packages` (
	`sha256` text PRIMARY KEY NOT NULL,
	`case_id` text NOT NULL,
	`round` integer NOT NULL,
	`name` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `table_definitions` (
	`id` text PRIMARY KEY NOT NULL,
	`document` text NOT NULL,
	`added_at` integer NOT NULL
);
