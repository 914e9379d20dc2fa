CREATE TABLE `accounts` (
	`id` varchar(40) NOT NULL,
	`user_id` varchar(16) NOT NULL,
	`account_id` varchar(190) NOT NULL,
	`provider_id` varchar(60) NOT NULL,
	`password` varchar(300),
	`access_token` text,
	`refresh_token` text,
	`id_token` text,
	`access_token_expires_at` datetime(3),
	`refresh_token_expires_at` datetime(3),
	`scope` varchar(300),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	`updated_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `accounts_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `api_tokens` (
	`id` varchar(16) NOT NULL,
	`person_id` varchar(16) NOT NULL,
	`name` varchar(120) NOT NULL,
	`hash` char(64) NOT NULL,
	`starts` varchar(12) NOT NULL,
	`last_used_at` datetime(3),
	`revoked_at` datetime(3),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `api_tokens_id` PRIMARY KEY(`id`),
	CONSTRAINT `api_tokens_hash` UNIQUE(`hash`)
);
--> statement-breakpoint
CREATE TABLE `changes` (
	`seq` bigint unsigned AUTO_INCREMENT NOT NULL,
	`subject` varchar(16) NOT NULL,
	`subject_id` varchar(16) NOT NULL,
	`group_id` varchar(16) NOT NULL,
	`person_id` varchar(16) NOT NULL,
	`action` varchar(40) NOT NULL,
	`label` varchar(300) NOT NULL DEFAULT '',
	`before` longtext,
	`after` longtext,
	`at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `changes_seq` PRIMARY KEY(`seq`)
);
--> statement-breakpoint
CREATE TABLE `custom_fields` (
	`id` varchar(16) NOT NULL,
	`name` varchar(80) NOT NULL,
	`type` varchar(16) NOT NULL,
	`options` longtext NOT NULL DEFAULT '[]',
	`position` int NOT NULL DEFAULT 0,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `custom_fields_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `favourites` (
	`person_id` varchar(16) NOT NULL,
	`item_id` varchar(16) NOT NULL,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `favourites_person_id_item_id_pk` PRIMARY KEY(`person_id`,`item_id`)
);
--> statement-breakpoint
CREATE TABLE `fit_scores` (
	`profile` char(64) NOT NULL,
	`reading_id` varchar(16) NOT NULL,
	`score` tinyint unsigned NOT NULL,
	`reasons` longtext NOT NULL,
	CONSTRAINT `fit_scores_profile_reading_id_pk` PRIMARY KEY(`profile`,`reading_id`)
);
--> statement-breakpoint
CREATE TABLE `folder_rights` (
	`folder_id` varchar(16) NOT NULL,
	`person_id` varchar(16) NOT NULL,
	`granted_by` varchar(16),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `folder_rights_folder_id_person_id_pk` PRIMARY KEY(`folder_id`,`person_id`)
);
--> statement-breakpoint
CREATE TABLE `job_parts` (
	`id` varchar(16) NOT NULL,
	`job_id` varchar(16) NOT NULL,
	`number` int NOT NULL,
	`state` varchar(16) NOT NULL,
	`name` varchar(400) NOT NULL,
	`bytes` double NOT NULL DEFAULT 0,
	`payload` longtext NOT NULL,
	`message` varchar(1000) NOT NULL DEFAULT '',
	`result` longtext,
	`worker` varchar(60),
	`lease_until` datetime(3),
	`attempts` int NOT NULL DEFAULT 0,
	`ended_at` datetime(3),
	CONSTRAINT `job_parts_id` PRIMARY KEY(`id`),
	CONSTRAINT `job_parts_number` UNIQUE(`job_id`,`number`)
);
--> statement-breakpoint
CREATE TABLE `jobs` (
	`id` varchar(16) NOT NULL,
	`kind` varchar(16) NOT NULL,
	`title` varchar(200) NOT NULL,
	`person_id` varchar(16) NOT NULL,
	`state` varchar(16) NOT NULL,
	`order` longtext NOT NULL,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	`started_at` datetime(3),
	`ended_at` datetime(3),
	CONSTRAINT `jobs_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `pack_members` (
	`pack_id` varchar(16) NOT NULL,
	`item_id` varchar(16) NOT NULL,
	`position` int NOT NULL,
	CONSTRAINT `pack_members_pack_id_item_id_pk` PRIMARY KEY(`pack_id`,`item_id`)
);
--> statement-breakpoint
CREATE TABLE `presence` (
	`client_id` varchar(24) NOT NULL,
	`person_id` varchar(16) NOT NULL,
	`subject_id` varchar(16),
	`at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `presence_client_id` PRIMARY KEY(`client_id`)
);
--> statement-breakpoint
CREATE TABLE `readings` (
	`id` varchar(16) NOT NULL,
	`motion_hash` char(64) NOT NULL,
	`rig_id` varchar(16) NOT NULL,
	`facts` longtext NOT NULL,
	`strip` longblob NOT NULL,
	`descriptor` varbinary(255) NOT NULL DEFAULT '',
	`sketch` longblob NOT NULL,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `readings_id` PRIMARY KEY(`id`),
	CONSTRAINT `readings_motion_rig` UNIQUE(`motion_hash`,`rig_id`)
);
--> statement-breakpoint
CREATE TABLE `right_requests` (
	`id` varchar(16) NOT NULL,
	`folder_id` varchar(16) NOT NULL,
	`person_id` varchar(16) NOT NULL,
	`note` varchar(500) NOT NULL DEFAULT '',
	`state` varchar(16) NOT NULL DEFAULT 'open',
	`decided_by` varchar(16),
	`decided_at` datetime(3),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `right_requests_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `saved_searches` (
	`id` varchar(16) NOT NULL,
	`person_id` varchar(16) NOT NULL,
	`name` varchar(120) NOT NULL,
	`view` varchar(2000) NOT NULL,
	`shared` boolean NOT NULL DEFAULT false,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `saved_searches_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `sessions` (
	`id` varchar(40) NOT NULL,
	`user_id` varchar(16) NOT NULL,
	`token` varchar(120) NOT NULL,
	`expires_at` datetime(3) NOT NULL,
	`ip_address` varchar(60),
	`user_agent` varchar(400),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	`updated_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `sessions_id` PRIMARY KEY(`id`),
	CONSTRAINT `sessions_token` UNIQUE(`token`)
);
--> statement-breakpoint
CREATE TABLE `uploads` (
	`hash` char(64) NOT NULL,
	`bytes` longblob NOT NULL,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `uploads_hash` PRIMARY KEY(`hash`)
);
--> statement-breakpoint
CREATE TABLE `verifications` (
	`id` varchar(40) NOT NULL,
	`identifier` varchar(190) NOT NULL,
	`value` text NOT NULL,
	`expires_at` datetime(3) NOT NULL,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	`updated_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `verifications_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `people` MODIFY COLUMN `role` varchar(16) NOT NULL DEFAULT 'viewer';--> statement-breakpoint
ALTER TABLE `folders` ADD `restricted` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `intakes` ADD `file_hash` char(64);--> statement-breakpoint
ALTER TABLE `intakes` ADD `job_id` varchar(16);--> statement-breakpoint
ALTER TABLE `item_versions` ADD `reading_id` varchar(16) NOT NULL;--> statement-breakpoint
ALTER TABLE `item_versions` ADD `parts` longtext DEFAULT '[]' NOT NULL;--> statement-breakpoint
ALTER TABLE `item_versions` ADD `note` varchar(500) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `items` ADD `heading` varchar(200) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `items` ADD `rating` tinyint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `items` ADD `rights` varchar(16) DEFAULT 'unknown' NOT NULL;--> statement-breakpoint
ALTER TABLE `items` ADD `source` varchar(300) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `items` ADD `made_for` varchar(16);--> statement-breakpoint
ALTER TABLE `items` ADD `props` longtext DEFAULT '[]' NOT NULL;--> statement-breakpoint
ALTER TABLE `items` ADD `fields` longtext DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE `items` ADD `derived_from` varchar(16);--> statement-breakpoint
ALTER TABLE `items` ADD `still_hash` char(64);--> statement-breakpoint
ALTER TABLE `items` ADD `revision` int DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE `people` ADD `email` varchar(190);--> statement-breakpoint
ALTER TABLE `people` ADD `email_verified` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `people` ADD `image` varchar(300);--> statement-breakpoint
ALTER TABLE `people` ADD `left_at` datetime(3);--> statement-breakpoint
ALTER TABLE `people` ADD `updated_at` datetime(3) DEFAULT CURRENT_TIMESTAMP(3) NOT NULL;--> statement-breakpoint
ALTER TABLE `tags` ADD `colour` varchar(16) DEFAULT 'plain' NOT NULL;--> statement-breakpoint
ALTER TABLE `tags` ADD `synonyms` longtext DEFAULT '[]' NOT NULL;--> statement-breakpoint
ALTER TABLE `people` ADD CONSTRAINT `people_email` UNIQUE(`email`);--> statement-breakpoint
CREATE INDEX `accounts_user` ON `accounts` (`user_id`);--> statement-breakpoint
CREATE INDEX `api_tokens_person` ON `api_tokens` (`person_id`);--> statement-breakpoint
CREATE INDEX `changes_subject` ON `changes` (`subject`,`subject_id`,`seq`);--> statement-breakpoint
CREATE INDEX `changes_group` ON `changes` (`group_id`);--> statement-breakpoint
CREATE INDEX `changes_person` ON `changes` (`person_id`,`seq`);--> statement-breakpoint
CREATE INDEX `changes_at` ON `changes` (`at`);--> statement-breakpoint
CREATE INDEX `job_parts_state` ON `job_parts` (`state`,`lease_until`);--> statement-breakpoint
CREATE INDEX `job_parts_job_state` ON `job_parts` (`job_id`,`state`);--> statement-breakpoint
CREATE INDEX `jobs_state` ON `jobs` (`state`);--> statement-breakpoint
CREATE INDEX `jobs_created` ON `jobs` (`created_at`);--> statement-breakpoint
CREATE INDEX `pack_members_item` ON `pack_members` (`item_id`);--> statement-breakpoint
CREATE INDEX `presence_at` ON `presence` (`at`);--> statement-breakpoint
CREATE INDEX `readings_rig` ON `readings` (`rig_id`);--> statement-breakpoint
CREATE INDEX `right_requests_state` ON `right_requests` (`state`);--> statement-breakpoint
CREATE INDEX `saved_searches_person` ON `saved_searches` (`person_id`);--> statement-breakpoint
CREATE INDEX `sessions_user` ON `sessions` (`user_id`);--> statement-breakpoint
CREATE INDEX `verifications_identifier` ON `verifications` (`identifier`);--> statement-breakpoint
CREATE INDEX `intakes_file` ON `intakes` (`file_hash`);--> statement-breakpoint
CREATE INDEX `intakes_job` ON `intakes` (`job_id`);--> statement-breakpoint
CREATE INDEX `versions_reading` ON `item_versions` (`reading_id`);--> statement-breakpoint
CREATE INDEX `items_derived` ON `items` (`derived_from`);--> statement-breakpoint
CREATE INDEX `items_version` ON `items` (`version_id`);--> statement-breakpoint
CREATE INDEX `items_made_for` ON `items` (`made_for`);--> statement-breakpoint
INSERT INTO `readings` (`id`, `motion_hash`, `rig_id`, `facts`, `strip`, `descriptor`, `sketch`) SELECT MIN(`id`), `motion_hash`, `rig_id`, MIN(`facts`), MIN(`strip`), MIN(`descriptor`), '' FROM `item_versions` GROUP BY `motion_hash`, `rig_id`;--> statement-breakpoint
UPDATE `item_versions` v JOIN `readings` r ON r.`motion_hash` = v.`motion_hash` AND r.`rig_id` = v.`rig_id` SET v.`reading_id` = r.`id`;
--> statement-breakpoint
UPDATE `items` i JOIN `item_versions` v ON v.`id` = i.`version_id` SET i.`derived_from` = JSON_VALUE(v.`provenance`, '$.sourceItem'), i.`made_for` = JSON_VALUE(v.`provenance`, '$.character');
