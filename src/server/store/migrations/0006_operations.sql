CREATE TABLE `item` (
	`picture_id` text NOT NULL,
	`row_id` text NOT NULL,
	`list` text NOT NULL,
	`position` integer NOT NULL,
	`doc` blob NOT NULL,
	PRIMARY KEY(`row_id`, `list`, `position`),
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `item_picture` ON `item` (`picture_id`);--> statement-breakpoint
CREATE TABLE `request` (
	`picture_id` text NOT NULL,
	`route` text NOT NULL,
	`name` text NOT NULL,
	`digest` text NOT NULL,
	`answer` text,
	`at` integer NOT NULL,
	PRIMARY KEY(`picture_id`, `route`, `name`),
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `request_at` ON `request` (`at`);--> statement-breakpoint
ALTER TABLE `edit` ADD `operations` blob;--> statement-breakpoint
CREATE INDEX `picture_original` ON `picture` (`original`);--> statement-breakpoint
CREATE INDEX `render_patch` ON `render` (`patch`);