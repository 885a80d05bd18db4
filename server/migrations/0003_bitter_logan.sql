CREATE TABLE `adapters` (
	`id` text PRIMARY KEY NOT NULL,
	`document` text NOT NULL,
	`added_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `packed_items` (
	`day` text NOT NULL,
	`item` text NOT NULL,
	`at` integer NOT NULL,
	PRIMARY KEY(`day`, `item`)
);
