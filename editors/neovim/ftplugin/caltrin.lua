-- Lightbooks: two spaces, `//` comments, and the language server. `vim.g.caltrin_command` is the
-- command if it is not on the path.
vim.bo.commentstring = "// %s"
vim.bo.expandtab = true
vim.bo.shiftwidth = 2

local config = {
  name = "caltrin",
  cmd = { vim.g.caltrin_command or "caltrin", "lsp" },
  root_dir = vim.fn.expand("%:p:h"),
}
if vim.lsp.start then
  vim.lsp.start(config)
else
  -- Before 0.8 one client is shared by hand.
  vim.g.caltrin_client = vim.g.caltrin_client or vim.lsp.start_client(config)
  vim.lsp.buf_attach_client(0, vim.g.caltrin_client)
end
