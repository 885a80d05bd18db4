CREATE TABLE `refusals` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at` integer NOT NULL,
	`kind` text NOT NULL,
	`asked` text NOT NULL,
	`thing` text,
	`says` text NOT NULL,
	`found` text
);
