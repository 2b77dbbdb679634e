# A survey over a table of a database: asked, checked and described without bringing its people.

# A survey whose answers stay in the database.
asked_survey <- function(table, codebook, asked, rows) {
  refuse_for_table(table, asked, rows)
  codebook <- add_missing_codes(codebook, asked$missing_codes)
  columns <- check_columns(table$columns$column, codebook, asked[c("id", "group", "wave", "cluster", "weight")])
  specs <- codebook$items[codebook$items$role != "aside", ]
  cells <- different_cells(table, specs$item)
  silent <- silent_items(codebook)
  read <- lapply(seq_len(nrow(specs)), function(i) {
    one <- read_item(cells[[i]]$values, as.list(specs[i, ]), asked$find_codes)
    c(one, list(reading = item_reading(cells[[i]]$values, cells[[i]]$n, one$values, specs$item[i] %in% silent), n = cells[[i]]$n))
  })
  names(read) <- specs$item
  stop_for_cells(read)
  source <- new_table_source(table, rows, lapply(read, `[[`, "reading"), silent, list(codebook = codebook, group = asked$group))
  way <- message_of(if (table$fetch == "sums") "only_sums_leave" else "fetched_in_chunks")
  log <- new_log(c("database", "read"), list(message_of("log_table", table = named_table(table), ways = c(list(way), shards_said(table,
    specs$item[1]))),
    message_of("log_taken_in", cases = rows, items = nrow(specs), skipped = NULL)), c(table_code(asked), NA))
  survey <- structure(list(source = source, codebook = codebook, id = columns$id, group = columns$group, wave = columns$wave,
    cluster = columns$cluster, weight = columns$weight, kept = if (table$fetch == "sums") character(), size = source$rows, log = log),
  class = "sw_survey")
  survey |>
    log_found_codes(read) |>
    settle_ranges() |>
    settle_waves(asked$waves) |>
    settle_design() |>
    check_identifiers()
}

# There must be something to analyse.
check_some_items <- function(survey) {
  if (length(analysed_items(survey)) > 0) {
    return(invisible())
  }
  unkeyed <- survey$codebook$items$item[!is.na(survey$codebook$items$options)]
  stop_input(message_of("e_codebook_names_no"), hint = if (length(unkeyed) > 0) message_of("e_items_test_need", unkeyed = unkeyed) else
    message_of("e_give_items_role"))
}
