ALTER TABLE `stand_ins` ADD `battery` text;--> statement-breakpoint
UPDATE `stand_ins` SET `battery` = '{"restVolts":12.58,"voltsPerAh":0.012,"ohms":0.11,"slowOhms":0.1,"slowSeconds":25}' WHERE `family_id` = 'fog-signal';
