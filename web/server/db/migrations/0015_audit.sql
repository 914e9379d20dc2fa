CREATE TABLE `audit` (
	`seq` bigint AUTO_INCREMENT NOT NULL,
	`at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	`person_id` varchar(16),
	`what` varchar(40) NOT NULL,
	`about` varchar(300) NOT NULL,
	CONSTRAINT `audit_seq` PRIMARY KEY(`seq`)
);
--> statement-breakpoint
CREATE INDEX `audit_person` ON `audit` (`person_id`);--> statement-breakpoint
CREATE INDEX `audit_what` ON `audit` (`what`);