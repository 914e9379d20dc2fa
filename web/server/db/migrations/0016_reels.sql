CREATE TABLE `reel_items` (
	`reel_id` varchar(16) NOT NULL,
	`item_id` varchar(16) NOT NULL,
	CONSTRAINT `reel_items_reel_id_item_id_pk` PRIMARY KEY(`reel_id`,`item_id`)
);
--> statement-breakpoint
CREATE TABLE `reels` (
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
	CONSTRAINT `reels_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE INDEX `reel_items_item` ON `reel_items` (`item_id`);--> statement-breakpoint
CREATE INDEX `reels_changed` ON `reels` (`changed_at`);