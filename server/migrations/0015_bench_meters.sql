CREATE TABLE `bench_meters` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`document` text,
	`at` integer NOT NULL
);
