CREATE TABLE `delivery` (
	`id` text PRIMARY KEY NOT NULL,
	`picture_id` text NOT NULL,
	`version` integer NOT NULL,
	`revision` integer NOT NULL,
	`format` text NOT NULL,
	`file_name` text NOT NULL,
	`bytes` integer NOT NULL,
	`hash` text NOT NULL,
	`sent` integer DEFAULT false NOT NULL,
	`record` blob NOT NULL,
	`at` integer NOT NULL,
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `delivery_picture` ON `delivery` (`picture_id`);--> statement-breakpoint
ALTER TABLE `job` ADD `hand_over` text;