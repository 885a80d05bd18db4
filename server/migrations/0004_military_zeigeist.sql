CREATE TABLE `drills` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`exercise_id` text NOT NULL,
	`by` text NOT NULL,
	`at` integer NOT NULL,
	`help` text NOT NULL,
	`unsafe` integer NOT NULL,
	`wrong` integer NOT NULL,
	`took_ms` real NOT NULL,
	`score` integer NOT NULL
);
