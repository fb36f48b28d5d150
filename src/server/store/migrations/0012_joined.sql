CREATE TABLE `frame` (
	`picture_id` text NOT NULL,
	`position` integer NOT NULL,
	`file` text NOT NULL,
	PRIMARY KEY(`picture_id`, `position`),
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`file`) REFERENCES `blob`(`hash`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `frame_file` ON `frame` (`file`);--> statement-breakpoint
ALTER TABLE `picture` ADD `joined` text;