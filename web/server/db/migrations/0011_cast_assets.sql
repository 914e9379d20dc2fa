ALTER TABLE `cast_members` ADD `assets` longtext DEFAULT '{}' NOT NULL;--> statement-breakpoint
UPDATE `cast_members` SET `assets` = json_object('figure', `file_hash`) WHERE `file_hash` IS NOT NULL;