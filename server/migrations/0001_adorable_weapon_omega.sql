CREATE TABLE `bundles` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`sha256` text NOT NULL,
	`size` integer NOT NULL,
	`added_at` integer NOT NULL,
	`origin` text,
	`entries` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `house_policies` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`policy` text NOT NULL,
	`by` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `image_sights` (
	`image_id` text PRIMARY KEY NOT NULL,
	`profiles` text NOT NULL,
	`identity` text
);
--> statement-breakpoint
CREATE TABLE `requests` (
	`id` text PRIMARY KEY NOT NULL,
	`unit_id` text NOT NULL,
	`asked` text NOT NULL,
	`of` text NOT NULL,
	`asked_at` integer NOT NULL,
	`due_day` text NOT NULL,
	`answer` text,
	`image_id` text,
	`closed_at` integer
);
--> statement-breakpoint
CREATE TABLE `unit_answers` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`unit_id` text NOT NULL,
	`question` text NOT NULL,
	`answer` text NOT NULL,
	`by` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `unit_answers_by_unit` ON `unit_answers` (`unit_id`);--> statement-breakpoint
ALTER TABLE `image_files` ADD `origin` text;--> statement-breakpoint
ALTER TABLE `image_files` ADD `bundle_id` text;--> statement-breakpoint
ALTER TABLE `image_files` ADD `path` text;--> statement-breakpoint
ALTER TABLE `image_files` ADD `claim` text;--> statement-breakpoint
ALTER TABLE `images` ADD `facts` text;--> statement-breakpoint
ALTER TABLE `images` ADD `sketch` blob;--> statement-breakpoint
ALTER TABLE `jobs` ADD `kind` text DEFAULT 'fault' NOT NULL;--> statement-breakpoint
ALTER TABLE `jobs` ADD `symptoms` text DEFAULT '[]' NOT NULL;--> statement-breakpoint
ALTER TABLE `snapshots` ADD `photo_sha256` text;--> statement-breakpoint
ALTER TABLE `snapshots` ADD `photo_type` text;