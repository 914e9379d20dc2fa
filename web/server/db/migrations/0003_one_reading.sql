DROP INDEX `versions_motion` ON `item_versions`;--> statement-breakpoint
DROP INDEX `versions_rig` ON `item_versions`;--> statement-breakpoint
ALTER TABLE `item_versions` DROP COLUMN `motion_hash`;--> statement-breakpoint
ALTER TABLE `item_versions` DROP COLUMN `rig_id`;--> statement-breakpoint
ALTER TABLE `item_versions` DROP COLUMN `facts`;--> statement-breakpoint
ALTER TABLE `item_versions` DROP COLUMN `strip`;--> statement-breakpoint
ALTER TABLE `item_versions` DROP COLUMN `descriptor`;