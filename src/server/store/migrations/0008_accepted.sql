DROP TABLE `habit`;--> statement-breakpoint
UPDATE `fault` SET `doc` = json_set(`doc`, '$.state', 'accepted') WHERE json_extract(`doc`, '$.state') = 'checked';
