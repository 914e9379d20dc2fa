CREATE TABLE `body_maps` (
	`rig_id` varchar(16) NOT NULL,
	`map` longtext NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	`changed_by` varchar(16),
	`changed_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `body_maps_rig_id` PRIMARY KEY(`rig_id`)
);
--> statement-breakpoint
CREATE TABLE `cast_members` (
	`id` varchar(16) NOT NULL,
	`name` varchar(200) NOT NULL,
	`note` varchar(4000) NOT NULL DEFAULT '',
	`rig_id` varchar(16) NOT NULL,
	`file_hash` char(64),
	`floor_m` double,
	`height_m` double NOT NULL,
	`vertex_count` int NOT NULL DEFAULT 0,
	`created_by` varchar(16),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	`binned_at` datetime(3),
	CONSTRAINT `cast_members_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `files` (
	`hash` char(64) NOT NULL,
	`mime` varchar(80) NOT NULL,
	`bytes` longblob NOT NULL,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `files_hash` PRIMARY KEY(`hash`)
);
--> statement-breakpoint
CREATE TABLE `folders` (
	`id` varchar(16) NOT NULL,
	`parent_id` varchar(16),
	`name` varchar(160) NOT NULL,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `folders_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `intakes` (
	`id` varchar(16) NOT NULL,
	`person_id` varchar(16) NOT NULL,
	`file_name` varchar(300) NOT NULL,
	`bytes` double NOT NULL,
	`state` varchar(16) NOT NULL,
	`message` varchar(1000) NOT NULL DEFAULT '',
	`code` varchar(40) NOT NULL DEFAULT '',
	`result` longtext NOT NULL,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `intakes_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `item_tags` (
	`item_id` varchar(16) NOT NULL,
	`tag_id` varchar(16) NOT NULL,
	CONSTRAINT `item_tags_item_id_tag_id_pk` PRIMARY KEY(`item_id`,`tag_id`)
);
--> statement-breakpoint
CREATE TABLE `item_versions` (
	`id` varchar(16) NOT NULL,
	`item_id` varchar(16) NOT NULL,
	`number` int NOT NULL,
	`motion_hash` char(64) NOT NULL,
	`rig_id` varchar(16) NOT NULL,
	`facts` longtext NOT NULL,
	`strip` longblob NOT NULL,
	`provenance` longtext NOT NULL,
	`created_by` varchar(16),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `item_versions_id` PRIMARY KEY(`id`),
	CONSTRAINT `versions_item_number` UNIQUE(`item_id`,`number`)
);
--> statement-breakpoint
CREATE TABLE `items` (
	`id` varchar(16) NOT NULL,
	`kind` varchar(16) NOT NULL,
	`name` varchar(200) NOT NULL,
	`note` varchar(4000) NOT NULL DEFAULT '',
	`folder_id` varchar(16),
	`version_id` varchar(16) NOT NULL,
	`created_by` varchar(16),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	`updated_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	`binned_at` datetime(3),
	CONSTRAINT `items_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `motions` (
	`hash` char(64) NOT NULL,
	`frame_count` int NOT NULL,
	`fps` double NOT NULL,
	`packed` longblob NOT NULL,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `motions_hash` PRIMARY KEY(`hash`)
);
--> statement-breakpoint
CREATE TABLE `people` (
	`id` varchar(16) NOT NULL,
	`name` varchar(120) NOT NULL,
	`role` varchar(16) NOT NULL,
	`performer_id` varchar(16),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `people_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `rigs` (
	`id` varchar(16) NOT NULL,
	`identity` char(64) NOT NULL,
	`kind` varchar(16) NOT NULL,
	`joint_count` int NOT NULL,
	`height_m` double NOT NULL,
	`rest_kind` varchar(16) NOT NULL,
	`rest_pose` longtext,
	`data` longtext NOT NULL,
	`found` longtext NOT NULL,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `rigs_id` PRIMARY KEY(`id`),
	CONSTRAINT `rigs_identity` UNIQUE(`identity`)
);
--> statement-breakpoint
CREATE TABLE `tags` (
	`id` varchar(16) NOT NULL,
	`name` varchar(80) NOT NULL,
	CONSTRAINT `tags_id` PRIMARY KEY(`id`),
	CONSTRAINT `tags_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE INDEX `cast_rig` ON `cast_members` (`rig_id`);--> statement-breakpoint
CREATE INDEX `cast_name` ON `cast_members` (`name`);--> statement-breakpoint
CREATE INDEX `folders_parent` ON `folders` (`parent_id`);--> statement-breakpoint
CREATE INDEX `intakes_created` ON `intakes` (`created_at`);--> statement-breakpoint
CREATE INDEX `item_tags_tag` ON `item_tags` (`tag_id`);--> statement-breakpoint
CREATE INDEX `versions_motion` ON `item_versions` (`motion_hash`);--> statement-breakpoint
CREATE INDEX `versions_rig` ON `item_versions` (`rig_id`);--> statement-breakpoint
CREATE INDEX `items_folder` ON `items` (`folder_id`);--> statement-breakpoint
CREATE INDEX `items_bin_name` ON `items` (`binned_at`,`name`);