# The same steps as `npm run demo`: install, build, serve.
FROM node:20-bookworm-slim AS build
WORKDIR /oleaje
COPY . .
RUN npm install --no-save --no-fund --no-audit && npm run build

FROM node:20-bookworm-slim
WORKDIR /oleaje
ENV NODE_ENV=production HOST=0.0.0.0 PORT=4620 OLEAJE_RENDER_WORKER=/oleaje/dist/render-worker.mjs
COPY --from=build /oleaje/.output .output
COPY --from=build /oleaje/dist dist
USER node
EXPOSE 4620
CMD ["node", ".output/server/index.mjs"]
