CREATE TABLE `attempts` (
	`key` char(64) NOT NULL,
	`count` int NOT NULL,
	`until` datetime(3) NOT NULL,
	CONSTRAINT `attempts_key` PRIMARY KEY(`key`)
);
--> statement-breakpoint
ALTER TABLE `api_tokens` ADD `scope` varchar(16) DEFAULT 'change' NOT NULL;--> statement-breakpoint
ALTER TABLE `api_tokens` ADD `expires_at` datetime(3);