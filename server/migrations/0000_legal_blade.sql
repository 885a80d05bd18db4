CREATE TABLE `blobs` (
	`sha256` text PRIMARY KEY NOT NULL,
	`bytes` blob NOT NULL
);
--> statement-breakpoint
CREATE TABLE `families` (
	`id` text NOT NULL,
	`revision` integer NOT NULL,
	`document` text NOT NULL,
	`added_at` integer NOT NULL,
	PRIMARY KEY(`id`, `revision`)
);
--> statement-breakpoint
CREATE TABLE `image_files` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`image_id` text NOT NULL,
	`name` text NOT NULL,
	`sha256` text NOT NULL,
	`size` integer NOT NULL,
	`added_at` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `image_files_by_image` ON `image_files` (`image_id`);--> statement-breakpoint
CREATE TABLE `images` (
	`id` text PRIMARY KEY NOT NULL,
	`content_sha256` text NOT NULL,
	`added_at` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `images_contentSha256_unique` ON `images` (`content_sha256`);--> statement-breakpoint
CREATE TABLE `jobs` (
	`id` text PRIMARY KEY NOT NULL,
	`unit_id` text NOT NULL,
	`image_id` text,
	`component_id` text NOT NULL,
	`reason` text NOT NULL,
	`day` text NOT NULL,
	`added_at` integer NOT NULL,
	`closed_at` integer,
	`closed_by` text,
	`closing_note` text
);
--> statement-breakpoint
CREATE TABLE `runs` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`unit_id` text NOT NULL,
	`added_at` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `runs_by_job` ON `runs` (`job_id`);--> statement-breakpoint
CREATE INDEX `runs_by_unit` ON `runs` (`unit_id`);--> statement-breakpoint
CREATE TABLE `snapshots` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`unit_id` text NOT NULL,
	`at` real NOT NULL,
	`source` text NOT NULL,
	`lines` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `snapshots_by_unit` ON `snapshots` (`unit_id`);--> statement-breakpoint
CREATE TABLE `stand_ins` (
	`id` text PRIMARY KEY NOT NULL,
	`family_id` text NOT NULL,
	`name` text NOT NULL,
	`hardware` text NOT NULL,
	`serial` text NOT NULL,
	`flash` blob NOT NULL,
	`used_ah` real NOT NULL,
	`in_bootloader` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `units` (
	`id` text PRIMARY KEY NOT NULL,
	`family_id` text NOT NULL,
	`name` text NOT NULL,
	`place` text NOT NULL,
	`serial` text NOT NULL,
	`added_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `wake_events` (
	`run_id` text NOT NULL,
	`seq` integer NOT NULL,
	`at` real NOT NULL,
	`type` text NOT NULL,
	`body` text NOT NULL,
	`prev` text NOT NULL,
	`hash` text NOT NULL,
	PRIMARY KEY(`run_id`, `seq`)
);
--> statement-breakpoint
CREATE INDEX `wake_by_type` ON `wake_events` (`type`);