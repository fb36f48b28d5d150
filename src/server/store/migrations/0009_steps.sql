CREATE TABLE `step` (
	`id` text PRIMARY KEY NOT NULL,
	`picture_id` text NOT NULL,
	`doc` text NOT NULL,
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `step_picture` ON `step` (`picture_id`);