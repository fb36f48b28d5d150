CREATE TABLE `survey` (
	`picture_id` text PRIMARY KEY NOT NULL,
	`request` text NOT NULL,
	`finds` text NOT NULL,
	`at` integer NOT NULL,
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade
);
