-- How a provider knows the caller: {"kind": "none" | "key" | "basic" | "token" | "command", …}, secrets sealed or named.
ALTER TABLE providers ADD COLUMN credential TEXT NOT NULL DEFAULT '{"kind":"none"}';
UPDATE providers SET credential = json_object('kind', 'key', 'secret', json_object('variable', key_variable))
  WHERE key_variable IS NOT NULL;
ALTER TABLE providers DROP COLUMN key_variable;
ALTER TABLE providers ADD COLUMN headers TEXT NOT NULL DEFAULT '{}';   -- extra headers, JSON; $NAME in a value is read from the environment
ALTER TABLE providers ADD COLUMN retries INTEGER NOT NULL DEFAULT 2;
ALTER TABLE providers ADD COLUMN proxy TEXT;                           -- address of an HTTP proxy; null heeds the proxy variables
ALTER TABLE providers ADD COLUMN ca_file TEXT;                         -- certificates to trust beside the usual ones
ALTER TABLE providers ADD COLUMN probe TEXT;                           -- report of the last probe, JSON
-- the form of profiles has changed, and until now there was one
UPDATE providers SET profile = '{"profile": 1, "shape": "Chat completions over server-sent events", "request": {"method": "POST", "path": "/v1/chat/completions", "headers": {"authorization": "Bearer <key>", "content-type": "application/json"}, "body": {"model": "<model>", "messages": {"<each>": "messages", "as": {"role": "<role>", "content": "<text>"}}, "temperature": "<temperature>", "top_p": "<topP>", "top_k": "<topK>", "max_tokens": "<maxOutput>", "stop": "<stop>", "seed": "<seed>", "n": "<takes>", "stream": "<stream>", "stream_options": {"<if>": "stream", "as": {"include_usage": true}}}}, "models": {"path": "/v1/models", "list": "$.data[*]", "name": "@.id"}, "roles": {"system": "system", "visitor": "user", "app": "assistant"}, "answer": {"stream": {"framing": "sse", "rules": [{"each": "$.choices[*]", "take": "@.index", "text": "@.delta.content", "thought": "@.delta.reasoning", "finish": "@.finish_reason"}, {"each": "$.choices[*].delta.tool_calls[*]", "block": "@.index", "tool": {"id": "@.id", "name": "@.function.name", "arguments": "@.function.arguments"}}, {"usage": {"input": "$.usage.prompt_tokens", "output": "$.usage.completion_tokens", "thought": "$.usage.reasoning_tokens"}}], "end": {"sentinel": "[DONE]"}}, "whole": {"rules": [{"each": "$.choices[*]", "take": "@.index", "text": "@.message.content", "thought": "@.message.reasoning", "finish": "@.finish_reason"}, {"each": "$.choices[*].message.tool_calls[*]", "block": "@.id", "tool": {"id": "@.id", "name": "@.function.name", "arguments": "@.function.arguments"}}, {"usage": {"input": "$.usage.prompt_tokens", "output": "$.usage.completion_tokens", "thought": "$.usage.reasoning_tokens"}}]}, "problem": {"message": "$.error.message", "code": "$.error.code", "codes": {"model_not_found": "unknown-model", "context_length_exceeded": "too-long", "invalid_api_key": "unauthorised"}, "statuses": {"400": "misconfigured", "401": "unauthorised", "403": "not-allowed", "404": "misconfigured", "429": "rate-limited", "500": "overloaded", "503": "overloaded"}}, "limits": [{"of": "calls", "left": {"header": "x-ratelimit-remaining"}, "most": {"header": "x-ratelimit-limit"}, "resets": {"header": "x-ratelimit-reset"}}]}, "finishWords": {"stop": "complete", "length": "length", "tool_calls": "tools", "content_filter": "refused"}}';

ALTER TABLE models ADD COLUMN is_on INTEGER NOT NULL DEFAULT 1;
ALTER TABLE models ADD COLUMN can TEXT NOT NULL DEFAULT '[]';          -- what it can do beside text, JSON

-- every profile that a dispatch was made with, so that its answer can be read again
CREATE TABLE profiles (
  hash TEXT PRIMARY KEY,                                               -- SHA-256 of the source
  source TEXT NOT NULL
) STRICT, WITHOUT ROWID;

ALTER TABLE dispatches ADD COLUMN provider_id TEXT;
ALTER TABLE dispatches ADD COLUMN attempt INTEGER NOT NULL DEFAULT 1;  -- counted within the reply
ALTER TABLE dispatches ADD COLUMN headers TEXT;                        -- of the answer, JSON
ALTER TABLE dispatches ADD COLUMN arrivals TEXT;                       -- "at:length" of each arrival, once the dispatch has ended
ALTER TABLE dispatches ADD COLUMN packed BLOB;                         -- the bytes of the answer as gzip members, once the dispatch has ended
ALTER TABLE dispatches ADD COLUMN reader TEXT;                         -- "at:length" of the text as its reader got it
ALTER TABLE dispatch_chunks ADD COLUMN is_packed INTEGER NOT NULL DEFAULT 0; -- whether its bytes are a gzip member
CREATE INDEX dispatches_by_provider ON dispatches (provider_id, started_at);
CREATE INDEX dispatches_by_age ON dispatches (started_at) WHERE packed IS NOT NULL;
