CREATE TABLE `supplied` (
	`address` varchar(190) NOT NULL,
	`take_id` varchar(60) NOT NULL,
	`issue` int NOT NULL,
	`item_id` varchar(16),
	`taken_at` datetime(3),
	CONSTRAINT `supplied_address_take_id_pk` PRIMARY KEY(`address`,`take_id`)
);
--> statement-breakpoint
CREATE TABLE `supplier_links` (
	`address` varchar(190) NOT NULL,
	`sealed_key` varchar(600) NOT NULL,
	`by_itself` boolean NOT NULL DEFAULT false,
	`linked_by` varchar(16) NOT NULL,
	`created_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `supplier_links_address` PRIMARY KEY(`address`)
);
--> statement-breakpoint
CREATE INDEX `supplied_item` ON `supplied` (`item_id`);