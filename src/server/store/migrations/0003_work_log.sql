CREATE TABLE `work_log` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`picture_id` text NOT NULL,
	`kind` text NOT NULL,
	`seconds` real NOT NULL,
	`at` integer NOT NULL,
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade
);
