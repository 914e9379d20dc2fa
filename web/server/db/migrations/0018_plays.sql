CREATE TABLE `play_items` (
	`play_id` varchar(16) NOT NULL,
	`item_id` varchar(16) NOT NULL,
	CONSTRAINT `play_items_play_id_item_id_pk` PRIMARY KEY(`play_id`,`item_id`)
);
--> statement-breakpoint
CREATE TABLE `plays` (
	`id` varchar(16) NOT NULL,
	`name` varchar(200) NOT NULL,
	`content` longtext NOT NULL,
	`version` int NOT NULL DEFAULT 1,
	`taken` longtext,
	`created_by` varchar(16),
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	`changed_by` varchar(16),
	`changed_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	`binned_at` datetime(3),
	CONSTRAINT `plays_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE INDEX `play_items_item` ON `play_items` (`item_id`);--> statement-breakpoint
CREATE INDEX `plays_changed` ON `plays` (`changed_at`);