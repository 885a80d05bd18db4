CREATE TABLE `image_statements` (
	`image_id` text PRIMARY KEY NOT NULL,
	`family_id` text NOT NULL,
	`component_id` text NOT NULL,
	`version` text,
	`hardware_major` integer,
	`by` text NOT NULL,
	`origin` text NOT NULL,
	`at` integer NOT NULL
);
