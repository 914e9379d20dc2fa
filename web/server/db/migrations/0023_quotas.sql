CREATE TABLE `quotas` (
	`of` varchar(16) NOT NULL,
	`bytes` bigint NOT NULL,
	CONSTRAINT `quotas_of` PRIMARY KEY(`of`)
);
--> statement-breakpoint
ALTER TABLE `files` ADD `size` bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `motions` ADD `size` bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
UPDATE `files` SET `size` = octet_length(`bytes`);--> statement-breakpoint
UPDATE `motions` SET `size` = octet_length(`packed`);
