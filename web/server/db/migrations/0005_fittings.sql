CREATE TABLE `destinations` (
	`id` varchar(16) NOT NULL,
	`name` varchar(160) NOT NULL,
	`wish` longtext NOT NULL,
	`created_by` varchar(16),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	`used_at` datetime(3),
	CONSTRAINT `destinations_id` PRIMARY KEY(`id`),
	CONSTRAINT `destinations_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `fittings` (
	`id` varchar(16) NOT NULL,
	`item_id` varchar(16) NOT NULL,
	`cast_id` varchar(16) NOT NULL,
	`settings` longtext NOT NULL,
	`edits` longtext NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	`changed_by` varchar(16),
	`changed_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `fittings_id` PRIMARY KEY(`id`),
	CONSTRAINT `fittings_pair` UNIQUE(`item_id`,`cast_id`)
);
--> statement-breakpoint
CREATE TABLE `item_links` (
	`from_id` varchar(16) NOT NULL,
	`to_id` varchar(16) NOT NULL,
	`kind` varchar(16) NOT NULL,
	CONSTRAINT `item_links_from_id_to_id_kind_pk` PRIMARY KEY(`from_id`,`to_id`,`kind`)
);
--> statement-breakpoint
CREATE TABLE `map_profiles` (
	`id` varchar(16) NOT NULL,
	`name` varchar(160) NOT NULL,
	`map` longtext NOT NULL,
	`created_by` varchar(16),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `map_profiles_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `body_maps` ADD `match_pose` longtext;--> statement-breakpoint
ALTER TABLE `body_maps` ADD `limits` longtext;--> statement-breakpoint
ALTER TABLE `body_maps` ADD `pairs` longtext;--> statement-breakpoint
ALTER TABLE `body_maps` ADD `joint_sets` longtext DEFAULT '[]' NOT NULL;--> statement-breakpoint
ALTER TABLE `cast_members` ADD `variant_of` varchar(16);--> statement-breakpoint
CREATE INDEX `fittings_cast` ON `fittings` (`cast_id`);--> statement-breakpoint
CREATE INDEX `item_links_to` ON `item_links` (`to_id`);