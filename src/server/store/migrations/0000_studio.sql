CREATE TABLE `blob_part` (
	`hash` text NOT NULL,
	`part` integer NOT NULL,
	`data` blob NOT NULL,
	PRIMARY KEY(`hash`, `part`),
	FOREIGN KEY (`hash`) REFERENCES `blob`(`hash`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `blob` (
	`hash` text PRIMARY KEY NOT NULL,
	`bytes` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `edit` (
	`picture_id` text NOT NULL,
	`number` integer NOT NULL,
	`label` text NOT NULL,
	`changes` text NOT NULL,
	`at` integer NOT NULL,
	PRIMARY KEY(`picture_id`, `number`),
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `fault` (
	`id` text PRIMARY KEY NOT NULL,
	`picture_id` text NOT NULL,
	`doc` text NOT NULL,
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `fault_picture` ON `fault` (`picture_id`);--> statement-breakpoint
CREATE TABLE `job` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`client` text DEFAULT '' NOT NULL,
	`brief` text DEFAULT '' NOT NULL,
	`policy` text NOT NULL,
	`long_side_mm` real NOT NULL,
	`created_at` integer NOT NULL,
	`delivered_at` integer
);
--> statement-breakpoint
CREATE TABLE `layer` (
	`id` text PRIMARY KEY NOT NULL,
	`picture_id` text NOT NULL,
	`doc` text NOT NULL,
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `layer_picture` ON `layer` (`picture_id`);--> statement-breakpoint
CREATE TABLE `picture` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`name` text NOT NULL,
	`facts` text NOT NULL,
	`original` text NOT NULL,
	`revision` integer DEFAULT 0 NOT NULL,
	`cursor` integer DEFAULT 0 NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `job`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`original`) REFERENCES `blob`(`hash`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `picture_job` ON `picture` (`job_id`);--> statement-breakpoint
CREATE TABLE `render` (
	`picture_id` text NOT NULL,
	`key` text NOT NULL,
	`try_id` text NOT NULL,
	`patch` text NOT NULL,
	`box` text NOT NULL,
	`reason` text NOT NULL,
	`at` integer NOT NULL,
	PRIMARY KEY(`picture_id`, `key`),
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`patch`) REFERENCES `blob`(`hash`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `render_try` ON `render` (`try_id`);--> statement-breakpoint
CREATE TABLE `repair` (
	`id` text PRIMARY KEY NOT NULL,
	`picture_id` text NOT NULL,
	`doc` text NOT NULL,
	FOREIGN KEY (`picture_id`) REFERENCES `picture`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `repair_picture` ON `repair` (`picture_id`);--> statement-breakpoint
CREATE TABLE `setting` (
	`name` text NOT NULL,
	`value` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `setting_name` ON `setting` (`name`);