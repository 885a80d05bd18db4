ALTER TABLE `stand_ins` ADD `link_id` text;--> statement-breakpoint
ALTER TABLE `stand_ins` ADD `lines` text DEFAULT '{}' NOT NULL;