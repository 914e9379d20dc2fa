CREATE TABLE `invitations` (
	`id` varchar(16) NOT NULL,
	`hash` char(64) NOT NULL,
	`name` varchar(120) NOT NULL,
	`role` varchar(16) NOT NULL,
	`by_id` varchar(16) NOT NULL,
	`expires_at` datetime(3) NOT NULL,
	`used_by_id` varchar(16),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `invitations_id` PRIMARY KEY(`id`),
	CONSTRAINT `invitations_hash` UNIQUE(`hash`)
);
--> statement-breakpoint
CREATE TABLE `second_factors` (
	`id` varchar(40) NOT NULL,
	`user_id` varchar(16) NOT NULL,
	`secret` text NOT NULL,
	`backup_codes` text NOT NULL,
	`verified` boolean NOT NULL DEFAULT false,
	`failed_verification_count` int NOT NULL DEFAULT 0,
	`locked_until` datetime(3),
	CONSTRAINT `second_factors_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `people` ADD `two_factor_enabled` boolean DEFAULT false NOT NULL;--> statement-breakpoint
CREATE INDEX `second_factors_user` ON `second_factors` (`user_id`);