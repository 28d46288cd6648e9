# Runs Eurythm with its data in a volume and a token for those who open it:
#   docker build -f Containerfile -t eurythm .
#   docker run -p 8710:8710 -v eurythm:/data -e EURYTHM_NAME=plans.example eurythm
# The token is shown once in the log of the first start; `docker exec NAME eurythm token --data /data` makes another for the next.
FROM node:22-bookworm-slim AS page
RUN apt-get update && apt-get install -y --no-install-recommends python3 python3-venv git && rm -rf /var/lib/apt/lists/*
WORKDIR /build
COPY . .
RUN bin/package /wheels

FROM python:3.11-slim-bookworm
RUN apt-get update && apt-get install -y --no-install-recommends fonts-noto-cjk && rm -rf /var/lib/apt/lists/*
COPY requirements.lock /tmp/requirements.lock
RUN pip install --no-cache-dir -r /tmp/requirements.lock
COPY --from=page /wheels/*.whl /tmp/
RUN pip install --no-cache-dir --no-deps /tmp/*.whl && rm /tmp/*.whl \
  && useradd --create-home eurythm && mkdir /data && chown eurythm /data
USER eurythm
RUN python -c "from eurythm.study.compiled import compile_once; compile_once(print)"
VOLUME /data
EXPOSE 8710
ENV EURYTHM_NAME=localhost
CMD ["sh", "-c", "exec eurythm serve --host 0.0.0.0 --port 8710 --data /data --allow-host \"$EURYTHM_NAME\""]
