vim.api.nvim_create_autocmd({ "BufRead", "BufNewFile" }, {
  pattern = "*.caltrin",
  callback = function() vim.bo.filetype = "caltrin" end,
})
