ALTER TABLE `snapshots` ADD `in_bootloader` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `snapshots` ADD `refused` text;--> statement-breakpoint
ALTER TABLE `snapshots` ADD `after_event` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
UPDATE `snapshots` SET `after_event` = (SELECT COALESCE(MAX(`rowid`), 0) FROM `wake_events` WHERE `wake_events`.`at` <= `snapshots`.`at`);
