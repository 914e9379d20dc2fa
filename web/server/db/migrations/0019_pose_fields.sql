CREATE TABLE `pose_fields` (
	`cast_id` varchar(16) NOT NULL,
	`content` longtext NOT NULL,
	`version` int NOT NULL DEFAULT 0,
	`taken` longtext,
	`changed_by` varchar(16),
	`changed_at` datetime(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
	CONSTRAINT `pose_fields_cast_id` PRIMARY KEY(`cast_id`)
);
