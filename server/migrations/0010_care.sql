CREATE TABLE `blob_parts` (
	`sha256` text NOT NULL,
	`part` integer NOT NULL,
	`bytes` blob NOT NULL,
	PRIMARY KEY(`sha256`, `part`)
);
--> statement-breakpoint
CREATE TABLE `damaged_rows` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at` integer NOT NULL,
	`from_table` text NOT NULL,
	`key` text NOT NULL,
	`why` text NOT NULL,
	`row` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `passwords` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`hash` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `sessions` (
	`id` text PRIMARY KEY NOT NULL,
	`secret_sha256` text NOT NULL,
	`device` text NOT NULL,
	`person` text NOT NULL,
	`at` integer NOT NULL,
	`seen_at` integer NOT NULL,
	`ends_at` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `sessions_secretSha256_unique` ON `sessions` (`secret_sha256`);--> statement-breakpoint
ALTER TABLE `images` ADD `removed_at` integer;--> statement-breakpoint
ALTER TABLE `runs` ADD `program` text;