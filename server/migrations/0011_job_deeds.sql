ALTER TABLE `jobs` ADD `releases` text DEFAULT '[]' NOT NULL;--> statement-breakpoint
ALTER TABLE `jobs` ADD `history` text DEFAULT '[]' NOT NULL;