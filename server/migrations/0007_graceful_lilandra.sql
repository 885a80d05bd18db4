CREATE TABLE `laptop_says` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`say` text NOT NULL,
	`at` integer NOT NULL
);
